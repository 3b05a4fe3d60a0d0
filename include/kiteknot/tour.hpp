#pragma once
// Round trips for people who only have stops: read them, get the shortest trip with its proof, or a
// good one by one of the ways that people use, and draw it. A trip that is part of a larger model
// is one of its rules instead: Model::tour.

#include <array>
#include <cstdint>
#include <functional>
#include <limits>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "kiteknot/errors.hpp"
#include "kiteknot/outcome.hpp"
#include "kiteknot/rational.hpp"

#pragma GCC visibility push(default)
namespace kiteknot {

struct StopsData;

/// Stops and the lengths between them. A value; copies share what was read.
class Stops {
 public:
  /// For the library itself.
  explicit Stops(std::shared_ptr<const StopsData> data);
  Stops(const Stops&) = default;  // also where it is moved from: it stays usable
  Stops& operator=(const Stops&) = default;
  /// CSV of names with x, y (a plane) or lat, lon (the earth, kilometres), a CSV matrix of lengths,
  /// or TSPLIB. Throws IoError where the file itself cannot be read.
  static Reading<Stops> read(const std::string& path);
  /// `file`: for messages.
  static Reading<Stops> parse(const std::string& text, const std::string& file);
  /// Stops on whole places of a square of side 1,000, drawn by lot.
  static Stops made_up(std::int32_t count, std::uint64_t seed);

  /// How many there are.
  [[nodiscard]] std::int32_t size() const noexcept;
  /// UsageError for a stop that is not there.
  [[nodiscard]] const std::string& name(std::int32_t stop) const;
  /// Of the whole; may be empty.
  [[nodiscard]] const std::string& title() const noexcept;
  /// From one to the next, in the file's unit.
  [[nodiscard]] double length(std::int32_t from, std::int32_t to) const;
  /// Whether some leg is longer there than back.
  [[nodiscard]] bool directed() const noexcept;
  /// Whether it is known where they are.
  [[nodiscard]] bool on_a_map() const noexcept;
  /// "km" on the earth, else empty.
  [[nodiscard]] const char* unit() const noexcept;
  /// Whether they are for several trips: each stop has a load, and a trip a limit on them.
  [[nodiscard]] bool several() const noexcept;
  /// For at most so many trips (0: any number) from one stop, each with loads of at most so much.
  /// Throws UsageError where the stops have no loads.
  [[nodiscard]] Stops in_trips(double capacity, std::int32_t most = 0, std::int32_t from = 0) const;
  /// Where several trips start; -1: there are none.
  [[nodiscard]] std::int32_t gate() const noexcept;
  /// 0 where there are none.
  [[nodiscard]] double load(std::int32_t stop) const;
  /// What the trip's stops come to.
  [[nodiscard]] double load(const std::vector<std::int32_t>& trip) const;
  /// Of a trip; 0: there is none.
  [[nodiscard]] double capacity() const noexcept;
  /// By its name, or its number from 1; throws UsageError with the nearest name.
  [[nodiscard]] std::int32_t find(const std::string& name) const;
  /// For the library itself.
  [[nodiscard]] const StopsData& data() const noexcept { return *data_; }

 private:
  std::shared_ptr<const StopsData> data_;
};

struct TourProgress {
  double seconds = 0.0, length = 0.0;
  double bound = 0.0;  ///< 0: not known
};

struct TourOptions {
  std::string way = "exact";  ///< a name of tour_ways()
  double seconds = std::numeric_limits<double>::infinity();
  double gap = 0.0;  ///< relative; 0: to the proof
  std::uint64_t seed = 1;
  int threads = 0;  ///< as SolveOptions has it, of ways that can use several
  StopToken stop{};
  std::vector<std::int32_t> start{};  ///< a tour to begin with; may be empty
  std::int32_t first = 0;             ///< where the telling starts
  /// Of other ways than exact, up to 200,000 stops: what no tour is shorter than, by one-trees, in
  /// the last 0.3 of the time (it is not counted in the tour's seconds). Symmetric lengths only.
  bool with_bound = true;
  bool in_rounds = false;  ///< exact: solve whole, look at the loops, rule them out, solve again
  std::function<void(const TourProgress&)> watch{};
};

/// What one of several rounds came to.
struct TourRound {
  Rational length;
  std::vector<std::vector<std::int32_t>> loops;  ///< stops in order; one: it is the answer
};

/// What is between two stops at a point with fractions.
struct PartOfLeg {
  std::int32_t from = 0, to = 0;
  double share = 0.0;  ///< above 0, at most 1
};
struct RelaxedTour {
  Rational length;
  std::vector<PartOfLeg> legs;
  /// Sets of stops that it goes in and out of too little, and how much that is in all; tours
  /// have 2.
  std::vector<std::pair<std::vector<std::int32_t>, double>> sets;
};

struct TourAnswer {
  Outcome outcome = Outcome::undecided;
  std::string way;
  /// Empty: there is no tour. Of several trips: the gate, then the stops of one after the other.
  std::vector<std::int32_t> order;
  std::vector<std::vector<std::int32_t>> trips;  ///< of several, each from the gate
  Rational length;
  /// Of a model where what the goal says of legs is no length (some gain): "crowd is 42", or "-".
  std::string in_place_of_length{};
  std::optional<Rational> bound;  ///< no tour is shorter
  std::optional<double> gap;
  double seconds = 0.0;
  std::string stopped_by, reason;
  /// What two legs at every stop come to where they may make several loops.
  std::optional<TourRound> loose;
  /// The same with fractions, before any other rule; symmetric lengths only.
  std::optional<RelaxedTour> relaxed;
  std::optional<Rational> start_length;  ///< of the tour that the proof began with
  std::array<std::int64_t, 3> rules{};   ///< generated: against loops, blossoms, combs
  std::int64_t load_rules = 0;           ///< by what sets of stops have to carry
  std::optional<Rational> root_bound;    ///< before any branching
  std::int64_t nodes = 0;
  std::int64_t legs = 0, legs_kept = 0;  ///< all; that a better tour may use
  bool millionths = false;               ///< lengths were rounded to these
  std::vector<TourRound> rounds;
  std::vector<TourProgress> progress;
};

/// One of the ways to get a tour.
struct TourWay {
  std::string name, about;
  bool directed = false;  ///< takes lengths that differ there and back
  bool improves = false;  ///< goes on as long as it may
  bool one = true;        ///< makes one round trip
  bool several = false;   ///< makes several with loads
};
/// All of them, the exact one first.
const std::vector<TourWay>& tour_ways();
/// Throws UsageError with the nearest name.
const TourWay& tour_way(const std::string& name);
/// Whether the way takes these stops: directed lengths, legs that have to be there, how many there
/// are.
bool takes(const TourWay& way, const Stops& stops);
/// More stops than this are not taken by "exact".
inline constexpr std::int32_t kMostExactStops = 5000;

/// Throws UsageError for an unknown way, a way that does not take directed lengths, a start that is
/// no tour, too many stops for exact.
TourAnswer find_tour(const Stops& stops, const TourOptions& options = {});

/// Tours written and read in the TSPLIB form; stops by number from 1.
std::string tour_text(const Stops& stops, const std::vector<std::int32_t>& order);
/// Stops in order, by their places; a slip is told with its line.
Reading<std::vector<std::int32_t>> read_tour(const std::string& path, const Stops& stops);

}  // namespace kiteknot
#pragma GCC visibility pop
