#pragma once
// What an edit of a document does to the model: built as it is, and as it would be.
#include "graph/Edit.h"
#include "publish/FitCheck.h"

namespace seedloom {

struct UpdateResults {
    std::shared_ptr<const NodeOutcome> before, after;  ///< of one node; null where it gives nothing
    std::vector<Notice> told;                          ///< errors and warnings that are new
    bool same = false;                                 ///< the same to the bit
};

/// Of a node of the subject's loom, with its values in use; what both share is built once. Errors: `edit.conflict`, those of controlValues(),
/// `build.cancelled`.
Result<UpdateResults> updateResults(const FitSubject& subject, const Edit& edit, const std::string& node, const std::atomic<bool>* cancel = nullptr);

}  // namespace seedloom
