#pragma once
// What is to be told of a document as a whole: controls that nothing reads or that are broken, presets that don't fit, assets that are others than before.
#include "graph/Edit.h"
#include "operators/Notice.h"

namespace seedloom {

/// A change that helps: what a button says, and the edit of the whole document.
struct LoomFix {
    std::string label;
    Edit edit;
};

struct LoomNotice {
    NoticeLevel level = NoticeLevel::info;
    std::string code, text;
    std::string control;            ///< that it is about, or empty
    std::vector<std::string> path;  ///< of containers around the node
    std::string node;               ///< that it is about, or empty
    std::vector<LoomFix> fixes = {};
};

/// In the order of controls, presets, nodes. Codes: `control.unused`, `control.condition`, `control.default`, those of controlValues() for defaults that
/// can't be had, `preset.value`, `preset.unknown`, `control.missing` for a setting that reads a control which is not there, `asset.version`.
std::vector<LoomNotice> loomNotices(const Loom& loom, const Assets& assets = {});

}  // namespace seedloom
