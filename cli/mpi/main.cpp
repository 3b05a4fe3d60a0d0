// The tool on several processes, with MPI to carry their letters: `mpirun -n 4 kiteknot-mpi solve
// model.knot`. Rank 0 speaks and writes; the others only search, or try cases.

#include <chrono>
#include <cstdio>
#include <list>
#include <string_view>
#include <thread>

#include <mpi.h>

#include "command.hpp"
#include "terminal.hpp"

namespace kiteknot::cli {
namespace {

class MpiTransport final : public Transport {
 public:
  MpiTransport() {
    MPI_Comm_rank(MPI_COMM_WORLD, &rank_);
    MPI_Comm_size(MPI_COMM_WORLD, &ranks_);
  }
  ~MpiTransport() override {
    // What cannot be sent any more is given up.
    constexpr int kLooks = 500;
    for (int k = 0; k < kLooks && !on_the_way_.empty(); ++k) {
      look_at_sent();
      std::this_thread::sleep_for(kEach);
    }
    for (Sent& sent : on_the_way_) MPI_Request_free(&sent.request);
  }
  int rank() const override { return rank_; }
  int ranks() const override { return ranks_; }

  void send(int to, std::string bytes) override {
    look_at_sent();
    Sent& sent = on_the_way_.emplace_back();
    sent.bytes = std::move(bytes);
    MPI_Isend(sent.bytes.data(), static_cast<int>(sent.bytes.size()), MPI_BYTE, to, 0,
              MPI_COMM_WORLD, &sent.request);
  }

  std::optional<Letter> receive(double seconds) override {
    using Clock = std::chrono::steady_clock;
    const auto until = Clock::now() + std::chrono::duration<double>(seconds);
    for (;;) {
      look_at_sent();
      int there = 0;
      MPI_Status status;
      MPI_Iprobe(MPI_ANY_SOURCE, 0, MPI_COMM_WORLD, &there, &status);
      if (there != 0) {
        int size = 0;
        MPI_Get_count(&status, MPI_BYTE, &size);
        Letter letter{status.MPI_SOURCE, std::string(static_cast<std::size_t>(size), '\0')};
        MPI_Recv(letter.bytes.data(), size, MPI_BYTE, status.MPI_SOURCE, 0, MPI_COMM_WORLD,
                 MPI_STATUS_IGNORE);
        return letter;
      }
      if (Clock::now() >= until) return std::nullopt;
      std::this_thread::sleep_for(kEach);
    }
  }

 private:
  struct Sent {
    std::string bytes;
    MPI_Request request = MPI_REQUEST_NULL;
  };
  static constexpr auto kEach = std::chrono::milliseconds(1);
  void look_at_sent() {
    std::erase_if(on_the_way_, [](Sent& sent) {
      int done = 0;
      MPI_Test(&sent.request, &done, MPI_STATUS_IGNORE);
      return done != 0;
    });
  }

  int rank_ = 0, ranks_ = 1;
  std::list<Sent> on_the_way_;  // until it has arrived, its bytes stay
};

// So many threads for each rank of a machine that none takes turns.
int threads_each() {
  MPI_Comm here = MPI_COMM_NULL;
  int ranks = 1;
  MPI_Comm_split_type(MPI_COMM_WORLD, MPI_COMM_TYPE_SHARED, 0, MPI_INFO_NULL, &here);
  MPI_Comm_size(here, &ranks);
  MPI_Comm_free(&here);
  const auto cores = static_cast<int>(std::max(1U, std::thread::hardware_concurrency()));
  return std::max(1, cores / ranks);
}

int run(int count, char** arguments) {
  std::unique_ptr<Transport> transport = std::make_unique<MpiTransport>();
  const bool alone = transport->ranks() == 1, first = transport->rank() == 0;
  const std::string_view command = count > 1 ? arguments[1] : "";
  const bool cases = command == "compare", one_tree = command == "solve" || command == "resume";
  if (!cases && !one_tree) {  // rank 0 does it by itself
    if (!alone && first && count > 1 && !command.starts_with('-'))
      print_error(std::string("'") + std::string(command) +
                  "' is done by one process; 'solve', 'resume' and 'compare' by all");
    return first ? run_tool(count, arguments) : kDone;
  }
  if (!first) {
    if (std::freopen("/dev/null", "w", stdout) == nullptr ||
        std::freopen("/dev/null", "w", stderr) == nullptr)
      return kFailed;
  }
  together().threads = threads_each();
  if (!alone && cases) together().letters = std::move(transport);
  if (!alone && one_tree)
    together().ranks =
        std::make_shared<RankGroup>(std::move(transport), [] { stop_switch().press(); });
  const int code = run_tool(count, arguments);
  together().ranks.reset();
  together().letters.reset();
  return first ? code : kDone;
}

}  // namespace
}  // namespace kiteknot::cli

int main(int count, char** arguments) {
  int given = MPI_THREAD_SINGLE;
  MPI_Init_thread(&count, &arguments, MPI_THREAD_SERIALIZED, &given);
  if (given < MPI_THREAD_SERIALIZED) {
    kiteknot::cli::print_error("this MPI cannot be used from several threads");
    MPI_Abort(MPI_COMM_WORLD, kiteknot::cli::kFailed);
  }
  const int code = kiteknot::cli::run(count, arguments);
  MPI_Finalize();
  return code;
}
