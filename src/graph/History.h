#pragma once
// What was done to a document and can be taken back, as values.
#include "graph/Edit.h"

#include <functional>
#include <vector>

namespace seedloom {

class History {
public:
    /// `most` steps are kept, far more than a person goes back; older ones are forgotten.
    explicit History(std::size_t most = 2000) : most_(most) {}

    /// Notes an edit that was applied, and forgets what had been undone. It joins the step before where both are of one gesture (a number over 0); a
    /// step that comes to nothing in the end is taken out.
    void push(Edit edit, int gesture = 0);
    /// The edit that Undo takes back, or Redo does again; nullptr where there is none.
    const Edit* undoable() const { return at_ > 0 ? &steps_[at_ - 1].edit : nullptr; }
    const Edit* redoable() const { return at_ < steps_.size() ? &steps_[at_].edit : nullptr; }
    /// What has been undone, or done again. Precondition: there is one.
    void stepBack() { --at_; }
    void stepOn() { ++at_; }

    std::size_t count() const { return steps_.size(); }
    std::size_t index() const { return at_; }
    /// Whether the document is as it was when it was marked clean.
    bool clean() const { return clean_ == at_; }
    void setClean() { clean_ = at_; }
    void clear();
    /// Changes every edit alike, as when paths start from another folder.
    void rewrite(const std::function<void(Edit&)>& change);

private:
    struct Step {
        Edit edit;
        int gesture;
    };
    std::vector<Step> steps_;
    std::size_t at_ = 0, most_;
    std::optional<std::size_t> clean_ = 0;  ///< nothing where that state can't be come back to
};

}  // namespace seedloom
