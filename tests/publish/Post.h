#pragma once
// What the tests of publishing and of packs build.
#include "formats/AssetShelf.h"
#include "formats/LoomFile.h"
#include "geometry/Digest.h"
#include "publish/FitCheck.h"

#include <QtTest/QtTest>

namespace seedloom::test {

/// A post with a bore that must stay inside of it, a cap that opens it, and heights above 1.5 that fail.
inline constexpr const char* kPost = R"({"seedloom": 1, "name": "Post", "version": "1.2.0", "summary": "A post.", "author": "Gull Rock", "licence": "CC0",
"tags": ["post"],
"controls": [
 {"id": "height", "label": "Height", "type": "number", "default": 1, "min": 0.5, "max": 2, "help": "How high."},
 {"id": "width", "label": "Width", "type": "number", "default": 0.4, "min": 0.2, "max": 1, "help": "How wide.", "allowed_when": "ctl.width < ctl.height"},
 {"id": "open", "label": "Open", "type": "boolean", "default": false, "help": "Without a top."}],
"presets": [{"name": "Low", "values": {"height": 0.6}}],
"nodes": [
 {"id": "box", "op": "box", "cell": [0, 0], "settings": {"size": {"formula": "vec3(ctl.width, ctl.height, ctl.width) "}}},
 {"id": "less", "op": "delete", "cell": [1, 0], "settings": {"where": {"formula": "ctl.open ? normal.y > 0.5 : false"}}},
 {"id": "stand", "op": "transform", "cell": [2, 0], "settings": {"move": {"formula": "vec3(0, ctl.height * 0.5, 0) "}}},
 {"id": "out", "op": "output", "cell": [3, 0]}],
"links": [["box", "less"], ["less", "stand"], ["stand", "out"]], "output": "out"})";

inline FitSubject subject(const std::string& text, const std::string& folder = {}) {
    auto loom = loomFromText(text);
    if (!loom) qFatal("%s", loom.error().text.c_str());
    FitSubject out;
    out.assets = assetsOf(*loom, folder);
    out.loom = std::make_shared<const Loom>(std::move(*loom));
    out.folder = folder;
    return out;
}

inline Digest defaults(const FitSubject& from) {
    RebuildRequest request;
    request.loom = from.loom, request.folder = from.folder, request.files = from.files, request.assets = from.assets;
    request.controls = *controlValues(*from.loom);
    Memo memo;
    const RebuildResult result = rebuild(request, memo);
    for (const Notice& notice : result.notices(*from.loom))
        if (notice.level != NoticeLevel::info) qFatal("%s", notice.text.c_str());
    return digestOf(*result.geometry(from.loom->output));
}

}  // namespace seedloom::test
