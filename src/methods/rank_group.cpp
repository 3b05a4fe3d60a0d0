#include "kiteknot/errors.hpp"
#include "kiteknot/ranks.hpp"
#include "mip/parallel/ranks.hpp"

namespace kiteknot {

RankGroup::RankGroup(std::unique_ptr<Transport> transport, std::function<void()> stopped) {
  if (transport == nullptr) throw UsageError("ranks need something that carries their letters");
  ranks_ = std::make_shared<mip::Ranks>(std::move(transport), std::move(stopped));
}

RankGroup::~RankGroup() = default;

int RankGroup::rank() const {
  return ranks_->rank();
}

int RankGroup::size() const {
  return ranks_->size();
}

}  // namespace kiteknot
