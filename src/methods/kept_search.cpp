#include "methods/kept_search.hpp"

#include <cmath>
#include <fstream>

#include <fmt/format.h>

#include "base/pack.hpp"
#include "data/files.hpp"
#include "kiteknot/errors.hpp"

namespace kiteknot {
namespace {

// A line that says what it is, then a mark of all that follows, and the rest packed. The line has
// the version: what is inside is as this one has it.
constexpr std::string_view kFirstLine = "kiteknot kept search " KITEKNOT_VERSION "\n";
constexpr std::string_view kAnyVersion = "kiteknot kept search ";

[[noreturn]] void refuse(const std::string& file, const std::string& why) {
  Diagnostics notes;
  notes.error({file, 0, 0, why, false});
  throw InputError(notes);
}

std::string bytes_of(const KeptSearch::Data& data) {
  Packer packer;
  packer(data.title, data.model, data.beside, data.best, data.bound, mip::packed(data.state));
  const std::string body = packer.take();
  Mark mark;
  mark.add(body);
  Packer head;
  head(mark.value());
  return std::string(kFirstLine) + head.take() + body;
}

}  // namespace

std::shared_ptr<const KeptSearch> KeptSearch::read(const std::string& file) {
  const std::string bytes = data::read_file(file);
  const std::string_view all = bytes;
  if (!all.starts_with(kAnyVersion)) refuse(file, "this is no search that 'solve --keep' kept");
  if (!all.starts_with(kFirstLine)) {
    const std::string_view rest = all.substr(kAnyVersion.size());
    refuse(file, fmt::format("the search was kept by version {}; this one is {}",
                             rest.substr(0, std::min<std::size_t>(rest.find('\n'), 20)),
                             KITEKNOT_VERSION));
  }
  auto data = std::make_shared<Data>();
  try {
    std::uint64_t expected = 0;
    if (all.size() < kFirstLine.size() + sizeof expected) throw DamagedBytes();
    Unpacker head(all.substr(kFirstLine.size(), sizeof expected));
    head(expected);
    const std::string_view body = all.substr(kFirstLine.size() + sizeof expected);
    Mark mark;
    mark.add(body);
    if (mark.value() != expected) throw DamagedBytes();
    std::string state;
    Unpacker unpacker(body);
    unpacker(data->title, data->model, data->beside, data->best, data->bound, state);
    data->state = mip::unpacked(state);
  } catch (const DamagedBytes&) {
    refuse(file, "the kept search is damaged: it was cut short or changed");
  }
  return std::make_shared<const KeptSearch>(std::move(data));
}

bool KeptSearch::is_one(const std::string& file) {
  std::ifstream in(file, std::ios::binary);
  std::string begin(kAnyVersion.size(), ' ');
  in.read(begin.data(), static_cast<std::streamsize>(begin.size()));
  return in && begin == kAnyVersion;
}

const std::string& KeptSearch::title() const noexcept {
  return data_->title;
}
double KeptSearch::seconds() const noexcept {
  return data_->state.seconds;
}
std::int64_t KeptSearch::branches() const noexcept {
  return data_->state.counts.nodes;
}
std::int64_t KeptSearch::open() const noexcept {
  return data_->state.open;
}
bool KeptSearch::finished() const noexcept {
  return data_->state.finished;
}
std::optional<double> KeptSearch::best() const noexcept {
  return data_->best;
}
std::optional<double> KeptSearch::bound() const noexcept {
  return data_->bound;
}
const std::vector<std::pair<std::string, std::string>>& KeptSearch::beside() const noexcept {
  return data_->beside;
}
std::optional<std::string> KeptSearch::beside(const std::string& name) const {
  for (const auto& [known, content] : data_->beside)
    if (known == name) return content;
  return std::nullopt;
}

namespace methods {

std::shared_ptr<const mip::Keeper> keeper_of(const Keeping& keeping, KeptOf of,
                                             std::shared_ptr<std::string> problem) {
  auto keeper = std::make_shared<mip::Keeper>();
  keeper->every = keeping.every;
  keeper->write = [keeping, of = std::move(of),
                   problem = std::move(problem)](const mip::KeptState& state) {
    const auto told = [&](double value) {
      return of.to_user && std::isfinite(value) ? std::optional(of.to_user(value)) : std::nullopt;
    };
    try {
      data::write_file(keeping.file, bytes_of({of.title, of.model, keeping.beside, told(state.best),
                                               told(state.bound), state}));
      problem->clear();
    } catch (const IoError& e) {  // the search goes on; it is tried again
      *problem = e.what();
    }
  };
  return keeper;
}

void go_on_from(const KeptSearch& kept, std::optional<std::uint64_t> model,
                mip::SearchOptions& options) {
  const KeptSearch::Data& data = kept.data();
  if (!model || data.model != model)
    throw UsageError(fmt::format(
        "the search that was kept is of another model, or one with other data: '{}'", data.title));
  const mip::KeptState& state = data.state;
  mip::GivenFacts& given = options.given;
  if (state.plan) {
    given.plans.insert(given.plans.begin(), *state.plan);
    given.plans_by = state.found_by;
  }
  given.known_bound = std::max(given.known_bound, state.bound);
  given.counts_before = state.counts;
  given.seconds_before = state.seconds;
  if (state.tree) given.tree = std::make_shared<const mip::KeptTree>(*state.tree);
}

}  // namespace methods
}  // namespace kiteknot
