#pragma once
// Making many variations of a loom, into a folder.
#include "publish/FitCheck.h"
#include "vary/VaryFolder.h"

namespace seedloom {

struct VaryOptions {
    int jobs = 0;                        ///< variations at the same time; 0: as many as the machine has threads
    std::string ending = ".glb";         ///< of models; empty: none are written
    std::string pattern = "{name}-{n}";  ///< see variationName()
    bool pictures = true;                ///< small ones
    std::size_t memoBytes = std::size_t(1) << 30;
    const std::atomic<bool>* cancel = nullptr;
    /// Called from any thread, one at a time, as rows are done, those that were done before included; must be quick.
    std::function<void(const VaryRow& row)> onRow;
};

struct VaryOutcome {
    std::vector<VaryRow> rows;       ///< those that are done, by their number
    std::size_t made = 0, kept = 0;  ///< anew; as they were in the folder
    std::size_t elsewhere = 0;       ///< that another program is making just now
    std::optional<Error> problem;    ///< what ended the run: nothing could be written
};

/// Makes the variations with these numbers (`first` is that of the first one). A row whose record has the same key and whose files are there is kept. What
/// fails is a row that says why, not the end. Steps that variations share are computed once. The same files for any number of jobs.
VaryOutcome vary(const FitSubject& subject, const std::vector<Variation>& variations, std::size_t first, const VaryFolder& folder, const VaryOptions& options);

}  // namespace seedloom
