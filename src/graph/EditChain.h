#pragma once
// Edits that build on each other, as one.
#include "graph/Edit.h"

namespace seedloom {

/// Takes edits one by one, each made from the loom as those before leave it.
class EditChain {
public:
    explicit EditChain(const Loom& loom) : loom_(loom) {}
    const Loom& loom() const { return loom_; }
    /// Once an edit does not fit, nothing more is taken, and all come to nothing.
    void then(const Edit& edit) {
        auto next = fits_ ? applied(loom_, edit) : Result<Loom>(Error{});
        fits_ = bool(next);
        if (!fits_) return;
        loom_ = std::move(*next);
        changes_.insert(changes_.end(), edit.changes.begin(), edit.changes.end());
    }
    Edit finish(std::string label) const { return fits_ ? Edit{std::move(label), compacted(changes_)} : Edit{}; }

private:
    Loom loom_;
    std::vector<Change> changes_;
    bool fits_ = true;
};

}  // namespace seedloom
