#pragma once
// Builds variations of a loom, one after the other or side by side, with one memo for all, and says what they are like.
#include "publish/TrialBuilds.h"
#include "render/Picture.h"
#include "vary/VaryRow.h"

namespace seedloom {

class VaryBuilds {
public:
    /// `cancel` must outlive it.
    VaryBuilds(const FitSubject& subject, std::size_t memoBytes, const std::atomic<bool>* cancel);
    /// Without values in use.
    const Loom& loom() const { return builds_.loom(); }

    /// Of all that a variation's model is made from: loom, files, assets, version of the program, its values and the files that these name.
    Digest keyOf(const Variation& variation) const;

    /// What is done with a model before it is gone. May throw Cancelled.
    using Use = std::function<void(const Geometry& model)>;
    /// Builds `row.variation` on the calling thread and fills in all but number, key, file and picture; `use` is called where there is a model. False where it
    /// was cancelled. Thread-safe.
    bool build(VaryRow& row, const Use& use);

private:
    ControlValues valuesOf(const Variation& variation) const;
    void addFiles(Digester& to, const ControlValues& values) const;

    const std::atomic<bool>* cancel_;
    FitOptions fit_;
    std::filesystem::path folder_;
    Files files_;
    TrialBuilds builds_;
    Digest common_;
};

/// A small picture of a variation, `wide` by `high` pixels. Throws Cancelled.
Picture variationPicture(const Geometry& model, int wide, int high, double yaw, double pitch, const std::atomic<bool>* cancel);

}  // namespace seedloom
