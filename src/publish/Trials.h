#pragma once
// The settings of its controls at which a loom is tried before others get it.
#include "graph/Controls.h"

namespace seedloom {

/// The loom as others get it: without the values that whoever made it has in use. The same pointer where there are none.
std::shared_ptr<const Loom> asPublished(std::shared_ptr<const Loom> loom);

/// Whether what was found of the one holds for the other: values in use and what is told of a loom don't count.
bool givesSameModels(const Loom& checked, Loom now);

/// One setting of a loom's controls.
struct Trial {
    enum class Kind : unsigned char { plain, preset, end, middle, pair, random };
    Kind kind = Kind::plain;
    std::string preset;   ///< of a preset: its name
    ControlValues given;  ///< beside it, by control
    /// What people read: "defaults", a preset's name, or the values.
    std::string text() const;
};

struct TrialPlan {
    bool middles = false;  ///< of each number between two ends
    bool pairs = false;    ///< ends of any two controls that one node reads
    int random = 0;        ///< settings of all controls at once
    unsigned seed = 1;
};

/// The defaults, each preset, each control at either end (yes and no, each choice; a text: empty, short, long) with the others at their defaults, and
/// what `plan` asks for, whatever values are in use; the same for the same seed on any machine. What the loom does not allow is left out: it can't be reached.
std::vector<Trial> trialsOf(const Loom& loom, const TrialPlan& plan);

}  // namespace seedloom
