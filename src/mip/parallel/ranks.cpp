#include "mip/parallel/ranks.hpp"

#include <algorithm>

#include "base/pack.hpp"

namespace kiteknot::mip {

template <class Archive>
void archive(Archive& a, RankStanding& s) {
  a(s.taken, s.open, s.idle, s.bound, s.best, s.loose, s.unresolved, s.counts);
}
template <class Archive>
void archive(Archive& a, ToldPlan& p) {
  a(p.values, p.by);
}
template <class Archive>
void archive(Archive& a, Supervisor::Give& g) {
  a(g.from, g.to, g.parcel, g.nodes, g.first, g.noted);
}

namespace {

// Changes whenever a letter does.
constexpr std::uint32_t kVersion = 1;

enum class Kind : std::uint8_t {
  joins,     // a rank's problem
  standing,  // what it has
  give,      // to whom it is to give some
  parcel,    // nodes
  refused,   // it had none to spare
  plan,
  news,
  ask_state,
  state,
  stop,      // the whole search is over
  last_word  // and this rank's is
};

template <class... T>
std::string letter(Kind kind, const T&... values) {
  Packer packer;
  packer(kVersion, kind, values...);
  return packer.take();
}

std::string state_letter(const RankState& state) {
  Packer packer;
  packer(kVersion, Kind::state, state.taken, state.plan,
         state.tree ? packed(*state.tree) : std::string(),
         static_cast<std::uint64_t>(state.given.size()));
  for (const RankState::Given& g : state.given) packer(g.parcel, g.to, packed(g.tree));
  return packer.take();
}
// Behind its kind.
RankState unpacked_state(Unpacker& unpacker) {
  RankState state;
  std::string bytes;
  std::uint64_t given = 0;
  unpacker(state.taken, state.plan, bytes, given);
  if (!bytes.empty()) state.tree = unpacked_tree(bytes);
  for (std::uint64_t k = 0; k < given; ++k) {
    RankState::Given g;
    unpacker(g.parcel, g.to, bytes);
    g.tree = unpacked_tree(bytes);
    state.given.push_back(std::move(g));
  }
  return state;
}

}  // namespace

Ranks::Ranks(std::unique_ptr<Transport> transport, std::function<void()> stopped, double silent)
    : transport_(std::move(transport)),
      stopped_(std::move(stopped)),
      rank_(transport_->rank()),
      size_(transport_->ranks()),
      silent_(silent),
      supervisor_(size_),
      marks_(static_cast<std::size_t>(size_)),
      states_(static_cast<std::size_t>(size_)),
      settled_(static_cast<std::size_t>(size_)),
      heard_(static_cast<std::size_t>(size_), 0.0),
      over_(static_cast<std::size_t>(size_), 0) {
  carrier_ = std::thread([this] { carry(); });
}

Ranks::~Ranks() {
  {
    const std::scoped_lock lock(mutex_);
    if (!leads() && !left_) out_.emplace_back(0, letter(Kind::last_word, standing_));
    for (int r = 1; leads() && r < size_; ++r) out_.emplace_back(r, letter(Kind::stop));
    closing_ = true;
  }
  carrier_.join();
}

// All use of the transport is here. What it throws ends the search, as does a letter that is none.
void Ranks::carry() {
  try {
    while (carry_on()) continue;
  } catch (const std::exception& e) {
    const std::scoped_lock lock(mutex_);
    stop_search(std::string("letters are not carried any more: ") + e.what());
  }
}

// False where it is closed.
bool Ranks::carry_on() {
  constexpr double kEach = 0.002, kSign = 0.5;  // seconds
  std::vector<std::pair<int, std::string>> out;
  bool closing = false;
  {
    const std::scoped_lock lock(mutex_);
    if (joined_ && !leads() && !left_ && (!told_ || clock_.seconds() > last_sign_ + kSign)) {
      out_.emplace_back(0, letter(Kind::standing, standing_));
      told_ = true;
      last_sign_ = clock_.seconds();
    }
    if (leads()) supervise();
    out = std::exchange(out_, {});
    closing = closing_;
  }
  for (auto& [to, bytes] : out) transport_->send(to, std::move(bytes));
  if (closing) return false;
  if (const std::optional<Letter> came = transport_->receive(kEach)) {
    const std::scoped_lock lock(mutex_);
    try {
      handle(*came);
    } catch (const DamagedBytes&) {
      stop_search("a letter of another rank cannot be read: are all of one version?");
    }
  }
  return true;
}

void Ranks::handle(const Letter& came) {
  Unpacker unpacker(came.bytes);
  std::uint32_t version = 0;
  Kind kind{};
  unpacker(version, kind);
  if (version != kVersion) throw DamagedBytes();
  heard_[static_cast<std::size_t>(came.from)] = clock_.seconds();
  switch (kind) {
    case Kind::joins: {
      std::uint64_t mark = 0;
      unpacker(mark);
      marks_[static_cast<std::size_t>(came.from)] = mark;
      break;
    }
    case Kind::standing: {
      RankStanding s;
      unpacker(s);
      supervisor_.heard(came.from, s);
      break;
    }
    case Kind::give:
      unpacker(mail_.gives.emplace_back());
      break;
    case Kind::parcel: {
      Mail::Parcel parcel;
      std::string bytes;
      unpacker(parcel.number, parcel.first, bytes);
      parcel.tree = unpacked_tree(bytes);
      mail_.parcels.push_back(std::move(parcel));
      break;
    }
    case Kind::refused: {
      std::int64_t parcel = 0;
      unpacker(parcel);
      supervisor_.refused(parcel);
      break;
    }
    case Kind::plan:
      unpacker(mail_.plans.emplace_back());
      break;
    case Kind::news: {
      std::string bytes;
      unpacker(bytes);
      KeptTree carrier = unpacked_tree(bytes);
      mail_.news.push_back({std::move(carrier.rows), std::move(carrier.conflicts)});
      break;
    }
    case Kind::ask_state:
      unpacker(mail_.known);
      mail_.state_asked = true;
      break;
    case Kind::state: {
      RankState state = unpacked_state(unpacker);
      if (state.plan) mail_.plans.push_back(*state.plan);
      states_[static_cast<std::size_t>(came.from)] = std::move(state);
      break;
    }
    case Kind::stop:
      stop_search({});
      break;
    case Kind::last_word: {
      RankStanding s;
      unpacker(s);
      if (marks_[static_cast<std::size_t>(came.from)]) supervisor_.heard(came.from, s);
      over_[static_cast<std::size_t>(came.from)] = 1;
      if (!ended_ && joined_ && !s.idle)
        stop_search("rank " + std::to_string(came.from) + " has ended before the search did");
      break;
    }
    default:
      throw DamagedBytes();
  }
  came_.notify_all();
}

void Ranks::stop_search(const std::string& trouble) {
  if (std::exchange(mail_.ended, true)) return;
  mail_.trouble = trouble;
  if (stopped_ && !leads()) stopped_();
  came_.notify_all();
}

void Ranks::supervise() {
  if (!joined_ || ended_ || mail_.ended) return;
  for (int r = 1; r < size_; ++r) {
    const auto k = static_cast<std::size_t>(r);
    if (!marks_[k]) continue;
    if (*marks_[k] != mark_)
      stop_search("rank " + std::to_string(r) + " has another model, or another version");
    else if (!over_[k] && clock_.seconds() > heard_[k] + silent_)
      stop_search("rank " + std::to_string(r) + " has fallen silent");
  }
  if (mail_.ended) return;  // who has another problem gets nothing
  for (Supervisor::Give& give : supervisor_.gives()) {
    give.noted = keeps_;
    if (give.from == rank_) {
      mail_.gives.push_back(give);
      came_.notify_all();
    } else {
      out_.emplace_back(give.from, letter(Kind::give, give));
    }
  }
}

void Ranks::post(int to, std::string bytes) {
  const std::scoped_lock lock(mutex_);
  out_.emplace_back(to, std::move(bytes));
}

void Ranks::post_all(const std::string& bytes) {
  const std::scoped_lock lock(mutex_);
  for (int r = 0; r < size_; ++r)
    if (r != rank_) out_.emplace_back(r, bytes);
}

void Ranks::join(std::uint64_t mark, bool keeps) {
  RankStanding at_work;
  at_work.open = 1;
  at_work.idle = false;
  at_work.bound = -std::numeric_limits<double>::infinity();
  const std::scoped_lock lock(mutex_);
  joined_ = true;
  mark_ = mark;
  keeps_ = keeps;
  if (leads())
    supervisor_.heard(0, at_work);
  else
    out_.emplace_back(0, letter(Kind::joins, mark));
}

Ranks::Mail Ranks::exchange(const RankStanding& standing) {
  const std::scoped_lock lock(mutex_);
  told_ = told_ && standing.idle == standing_.idle && standing.taken == standing_.taken &&
          (standing.open >= 2) == (standing_.open >= 2);
  standing_ = standing;
  if (leads() && joined_) supervisor_.heard(0, standing);
  for (std::size_t k = 0; k < states_.size(); ++k)  // with the plans that they rest on
    if (states_[k]) settled_[k] = std::exchange(states_[k], std::nullopt);
  Mail mail = std::move(mail_);
  mail_ = {};
  mail_.ended = mail.ended;
  mail_.trouble = mail.trouble;
  return mail;
}

void Ranks::wait(double seconds) {
  std::unique_lock lock(mutex_);
  came_.wait_for(lock, std::chrono::duration<double>(seconds), [&] {
    return mail_.ended || !mail_.parcels.empty() || !mail_.gives.empty() || mail_.state_asked ||
           (leads() && supervisor_.all_done());
  });
}

void Ranks::give(const Supervisor::Give& give, const KeptTree& tree) {
  const std::string bytes = packed(tree);
  const std::scoped_lock lock(mutex_);
  out_.emplace_back(give.to, letter(Kind::parcel, give.parcel, give.first, bytes));
  told_ = false;  // it may be asked again
}

void Ranks::refuse(std::int64_t parcel) {
  const std::scoped_lock lock(mutex_);
  told_ = false;
  if (leads())
    supervisor_.refused(parcel);
  else
    out_.emplace_back(0, letter(Kind::refused, parcel));
}

void Ranks::tell(const ToldPlan& plan) {
  post_all(letter(Kind::plan, plan));
}

// In a tree that has nothing but the root.
void Ranks::tell(const RankNews& news) {
  KeptTree carrier;
  carrier.nodes.emplace_back();
  carrier.rows = news.rows;
  carrier.conflicts = news.conflicts;
  post_all(letter(Kind::news, packed(carrier)));
}

void Ranks::tell(const RankState& state) {
  post(0, state_letter(state));
}

bool Ranks::all_done() const {
  const std::scoped_lock lock(mutex_);
  return supervisor_.all_done();
}

double Ranks::bound_of_others() const {
  const std::scoped_lock lock(mutex_);
  return supervisor_.bound_from(1);
}

Supervisor::Sums Ranks::sums_of_others() const {
  const std::scoped_lock lock(mutex_);
  return supervisor_.sums_from(1);
}

void Ranks::ask_states(const std::vector<std::int64_t>& known) {
  post_all(letter(Kind::ask_state, known));
}

std::vector<std::optional<RankState>> Ranks::states() const {
  const std::scoped_lock lock(mutex_);
  return settled_;
}

double Ranks::best_of_all() const {
  const std::scoped_lock lock(mutex_);
  return supervisor_.best();
}

void Ranks::leave() {
  const std::scoped_lock lock(mutex_);
  left_ = true;
  out_.emplace_back(0, letter(Kind::last_word, standing_));
}

void Ranks::end() {
  constexpr double kMost = 1.0, kEach = 0.005;  // seconds
  {
    const std::scoped_lock lock(mutex_);
    ended_ = true;
  }
  post_all(letter(Kind::stop));
  const Stopwatch watch;
  for (;;) {
    {
      std::unique_lock lock(mutex_);
      bool all = true;
      for (int r = 1; r < size_; ++r)
        all = all && (over_[static_cast<std::size_t>(r)] || !marks_[static_cast<std::size_t>(r)]);
      if (all || watch.seconds() > kMost) return;
      came_.wait_for(lock, std::chrono::duration<double>(kEach));
    }
  }
}

}  // namespace kiteknot::mip
