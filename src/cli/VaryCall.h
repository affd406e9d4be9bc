#pragma once
#include <atomic>
#include <iosfwd>
#include <string>
#include <vector>

namespace seedloom {

struct VaryCallOptions {
    std::string file, outDir, table, format = "glb", pattern = "{name}-{n}";
    std::vector<std::string> grid, set;
    std::string preset;
    std::size_t count = 0, row = 0;  ///< row: this one alone, with the values of `set` and `preset`
    int seed = 1, jobs = 0;
    bool list = false, resume = false, gather = false, json = false, noPictures = false;
};

/// Makes many variations of a loom into a folder, lists them for a job runner, or gathers the index of what others have made. Returns an exit status; throws
/// Ending.
int varyCall(const VaryCallOptions& options, std::ostream& out, std::ostream& err, std::atomic<bool>& stop);

}  // namespace seedloom
