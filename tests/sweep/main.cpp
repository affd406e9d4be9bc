// seedloom-sweep RANDOM SEED FILE…: builds each loom at many settings of its controls and tells what is not sound, or slow. Ends with 1 where anything is not.
#include "sweep/Trials.h"

#include <fmt/format.h>

#include <cstdlib>

namespace {

constexpr double kSlow = 1;  ///< seconds

}  // namespace

int main(int argc, char** argv) {
    using namespace seedloom::test;
    const auto number = [&](int i) {
        char* end = nullptr;
        const long value = argc > i ? std::strtol(argv[i], &end, 10) : -1;
        return end && *end == '\0' && value >= 0 && value <= 1'000'000 ? int(value) : -1;
    };
    const int random = number(1), seed = number(2);
    if (argc < 4 || random < 0 || seed < 0) {
        fmt::print(stderr, "seedloom-sweep RANDOM SEED FILE…: how many random settings, a number for them, and looms.\n");
        return 2;
    }
    bool sound = true;
    for (int i = 3; i < argc; ++i) {
        const TriedDemo demo(argv[i]);
        if (!demo.error().empty()) {
            fmt::print(stderr, "{}: {}\n", argv[i], demo.error());
            return 2;
        }
        const auto trials = trialsOf(demo.loom(), random, unsigned(seed));
        int bad = 0, slow = 0;
        double slowest = 0;
        for (const Trial& trial : trials) {
            const Verdict verdict = demo.judge(trial);
            slowest = std::max(slowest, verdict.seconds);
            slow += verdict.seconds > kSlow;
            bad += !verdict.faults.empty();
            if (verdict.faults.empty() && verdict.seconds <= kSlow) continue;
            fmt::print("  {:.1f} s  {}\n", verdict.seconds, trial.text());
            for (const std::string& fault : verdict.faults) fmt::print("         {}\n", fault);
            std::fflush(stdout);
        }
        fmt::print("{}: {} of {} sound, {} over {} s, the slowest {:.1f} s\n", argv[i], int(trials.size()) - bad, trials.size(), slow, kSlow, slowest);
        std::fflush(stdout);
        sound &= bad == 0;
    }
    return sound ? 0 : 1;
}
