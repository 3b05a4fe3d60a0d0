#pragma once
// Values of options, as people write them; what is wrong is told in words.

#include <CLI/CLI.hpp>

namespace kiteknot::cli {

/// A figure above 0, or from 0 up.
CLI::Validator a_figure(bool zero_too);
/// A whole number from 1 up, or from 0, up to `most` where that is said (0: it is not).
CLI::Validator a_count(bool zero_too, std::int64_t most = 0);
/// "10", "10s", "1.5min", "2h", "300ms": becomes seconds, above 0. To be used as a transform.
CLI::Validator a_time();
/// "5%" or "0.05": becomes a figure from 0 up and below 1; "5" alone could mean either and is asked
/// about. To be used as a transform.
CLI::Validator a_share();

}  // namespace kiteknot::cli
