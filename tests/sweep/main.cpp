// seedloom-sweep RANDOM SEED FILE…: builds each loom at many settings of its controls and tells what is not sound, or slow. Ends with 1 where anything is not.
#include "publish/FitCheck.h"

#include <fmt/format.h>

#include <cstdlib>

namespace {

constexpr double kSlow = 1;  ///< seconds that all steps of one setting take on one thread

}  // namespace

int main(int argc, char** argv) {
    using namespace seedloom;
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
        const auto demo = fitSubjectFrom(argv[i]);
        if (!demo) {
            fmt::print(stderr, "{}: {}\n", argv[i], demo.error().text);
            return 2;
        }
        const auto trials = trialsOf(*demo->loom, {.random = random, .seed = unsigned(seed)});
        int bad = 0, slow = 0;
        double slowest = 0;
        FitOptions options;
        options.onTrial = [&](std::size_t t, const Verdict& verdict) {
            const double seconds = verdict.ms / 1000;
            slowest = std::max(slowest, seconds);
            slow += seconds > kSlow;
            bad += !verdict.faults.empty();
            if (verdict.faults.empty() && seconds <= kSlow) return;
            fmt::print("  {:.1f} s  {}\n", seconds, trials[t].text());
            for (const std::string& fault : verdict.faults) fmt::print("         {}\n", fault);
            std::fflush(stdout);
        };
        checkFit(*demo, trials, options);
        fmt::print("{}: {} of {} sound, {} over {} s, the slowest {:.1f} s\n", argv[i], int(trials.size()) - bad, trials.size(), slow, kSlow, slowest);
        std::fflush(stdout);
        sound &= bad == 0;
    }
    return sound ? 0 : 1;
}
