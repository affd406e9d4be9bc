#pragma once
#include <atomic>
#include <iosfwd>
#include <string>

namespace seedloom {

struct PublishOptions {
    std::string file, out, sheet;  ///< sheet: a folder for it; empty: none is made
    bool checkOnly = false;        ///< nothing is written
    bool open = false;             ///< open surfaces are meant
    bool shrink = false;           ///< the smallest change that still fails is looked for
    bool json = false;
    int random = 50, seed = 1, threads = 0;
    std::size_t mostTriangles = 0;  ///< 0: no budget
};

/// Checks a loom at many settings of its controls and, where it is fit, writes its pack. Returns an exit status; throws Ending.
int publishCall(const PublishOptions& options, std::ostream& out, std::ostream& err, std::atomic<bool>& stop);

}  // namespace seedloom
