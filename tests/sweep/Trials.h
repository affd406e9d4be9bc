#pragma once
// A demo at many settings of its controls, each looked at as a whole: what a control allows must build a sound model.
#include "graph/Controls.h"
#include "graph/Rebuild.h"

#include <filesystem>

namespace seedloom::test {

struct Trial {
    std::string preset;
    ControlValues given;
    std::string text() const;
};

/// The defaults, each preset, each control at either end (a text: empty, short, long) with the others at their defaults, and `random` settings of all
/// controls at once, the same for the same seed.
std::vector<Trial> trialsOf(const Loom& loom, int random, unsigned seed);

struct Verdict {
    std::vector<std::string> faults;  ///< none where the model is closed, manifold, evenly wound, free of crossings, and nothing was told against it
    double seconds = 0;               ///< of a rebuild that finds nothing kept
};

class TriedDemo {
public:
    explicit TriedDemo(const std::filesystem::path& file);
    /// Why it could not be read; empty where it could.
    const std::string& error() const { return error_; }
    const Loom& loom() const { return *loom_; }
    Verdict judge(const Trial& trial) const;

private:
    std::filesystem::path folder_;
    std::shared_ptr<const Loom> loom_;
    std::string error_;
};

}  // namespace seedloom::test
