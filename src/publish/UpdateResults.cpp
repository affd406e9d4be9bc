#include "publish/UpdateResults.h"

#include "formats/AssetShelf.h"
#include "geometry/Digest.h"
#include "graph/Controls.h"

#include <algorithm>

namespace seedloom {

namespace {

Result<RebuildResult> built(const FitSubject& subject, const std::string& node, Memo& memo, const std::atomic<bool>* cancel) {
    auto values = controlValues(*subject.loom);
    if (!values) return values.error();
    RebuildRequest request = subject.request(std::move(*values));
    request.targets = {node};
    request.cancel = cancel;
    RebuildResult result = rebuild(request, memo);
    if (result.cancelled) return Error{"build.cancelled", "Building was cancelled."};
    return result;
}

std::shared_ptr<const NodeOutcome> outcomeOf(const RebuildResult& result, const std::string& node) {
    const auto it = result.nodes.find(node);
    return it == result.nodes.end() ? nullptr : it->second.outcome;
}

std::vector<Notice> newIn(const std::vector<Notice>& after, const std::vector<Notice>& before) {
    std::vector<Notice> out;
    for (const Notice& notice : after) {
        const bool known = std::any_of(before.begin(), before.end(), [&](const Notice& n) { return n.node == notice.node && n.text == notice.text; });
        if (notice.level != NoticeLevel::info && !known) out.push_back(notice);
    }
    return out;
}

}  // namespace

Result<UpdateResults> updateResults(const FitSubject& subject, const Edit& edit, const std::string& node, const std::atomic<bool>* cancel) {
    auto changed = applied(*subject.loom, edit);
    if (!changed) return changed.error();
    FitSubject after = subject;
    after.assets = assetsOf(*changed, subject.folder, subject.files);
    after.loom = std::make_shared<const Loom>(std::move(*changed));
    Memo memo;
    const auto first = built(subject, node, memo, cancel);
    if (!first) return first.error();
    const auto second = built(after, node, memo, cancel);
    if (!second) return second.error();
    UpdateResults out{outcomeOf(*first, node), outcomeOf(*second, node), newIn(second->notices(*after.loom), first->notices(*subject.loom)), false};
    out.same = out.before && out.after && digestOf(out.before->geometry) == digestOf(out.after->geometry);
    return out;
}

}  // namespace seedloom
