#include "mip/parallel/supervisor.hpp"

#include <algorithm>

namespace kiteknot::mip {

void Supervisor::heard(int from, const RankStanding& standing) {
  Rank& r = ranks_[static_cast<std::size_t>(from)];
  r.joined = true;
  // What was told before a promised parcel came says nothing of that.
  if (r.promised != 0 && standing.taken >= r.promised) {
    r.promised = 0;
    r.promised_bound = std::numeric_limits<double>::infinity();
    r.knows = true;
  }
  r.giving = false;
  r.standing = standing;
}

void Supervisor::refused(std::int64_t parcel) {
  for (Rank& r : ranks_)
    if (r.promised == parcel) {
      r.promised = 0;
      r.promised_bound = std::numeric_limits<double>::infinity();
    }
}

// Half of what one has, but few: those that got some soon give themselves, so that the start
// spreads by dividing.
std::vector<Supervisor::Give> Supervisor::gives() {
  constexpr std::int64_t kMost = 100;
  std::vector<Give> all;
  for (std::size_t to = 0; to < ranks_.size(); ++to) {
    if (!wants(ranks_[to])) continue;
    std::optional<std::size_t> from;
    for (std::size_t k = 0; k < ranks_.size(); ++k) {
      const Rank& r = ranks_[k];
      if (!r.joined || r.giving || r.standing.open < 2) continue;
      // The most to gain: the lowest bound, of equals who has more.
      if (!from || r.standing.bound < ranks_[*from].standing.bound ||
          (r.standing.bound == ranks_[*from].standing.bound &&
           r.standing.open > ranks_[*from].standing.open))
        from = k;
    }
    if (!from) break;
    Rank& giver = ranks_[*from];
    giver.giving = true;
    ranks_[to].promised = ++parcels_;
    ranks_[to].promised_bound = giver.standing.bound;
    all.push_back({static_cast<int>(*from), static_cast<int>(to), parcels_,
                   std::clamp<std::int64_t>(giver.standing.open / 2, 1, kMost),
                   !ranks_[to].knows && to != 0, false});
  }
  return all;
}

bool Supervisor::all_done() const {
  return std::ranges::all_of(
      ranks_, [](const Rank& r) { return !r.joined || (r.standing.idle && r.promised == 0); });
}

double Supervisor::bound_from(int first) const {
  double bound = std::numeric_limits<double>::infinity();
  for (std::size_t k = static_cast<std::size_t>(first); k < ranks_.size(); ++k)
    bound = std::min({bound, ranks_[k].standing.bound, ranks_[k].promised_bound});
  if (first > 0) bound = std::min(bound, ranks_[0].promised_bound);
  return bound;
}

double Supervisor::best() const {
  double best = std::numeric_limits<double>::infinity();
  for (const Rank& r : ranks_) best = std::min(best, r.standing.best);
  return best;
}

Supervisor::Sums Supervisor::sums_from(int first) const {
  Sums sums;
  for (std::size_t k = static_cast<std::size_t>(first); k < ranks_.size(); ++k) {
    const RankStanding& s = ranks_[k].standing;
    sums.counts += s.counts;
    sums.open += s.open;
    sums.loose = std::min(sums.loose, s.loose);
    sums.unresolved = std::min(sums.unresolved, s.unresolved);
  }
  return sums;
}

}  // namespace kiteknot::mip
