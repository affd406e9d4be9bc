#pragma once
// Random changes of any kind that people can make, for tests of what must hold after all of them.
#include "graph/Edit.h"
#include "graph/InnerEdits.h"
#include "graph/NodeSpec.h"
#include "graph/Tidy.h"
#include "support/Looms.h"

#include <random>

namespace seedloom::test {

/// A random change of any kind that people can make.
inline Edit randomEdit(const Loom& now, std::mt19937& random) {
    static const char* ops[] = {"transform", "noise_displace", "weld", "merge", "box", "flip", "output", "resample"};
    const auto some = [&] { return now.nodes.empty() ? std::string() : now.nodes[random() % now.nodes.size()].id; };
    const std::string a = some(), b = some();
    switch (random() % 20) {
        case 0: return addNodeAfter(now, ops[random() % 8], a, nullptr);
        case 1: return now.nodes.size() > 30 ? removeNodes(now, {a, b}) : addNode(now, ops[random() % 8], {int(random() % 6), int(random() % 4)}, nullptr);
        case 2: return addLink(now, linked(a, b));
        case 3: return moveNode(now, a, {int(random() % 8), int(random() % 5)});
        case 4: return setSkipped(now, {a, b}, random() % 2);
        case 5: return now.links.empty() ? Edit{} : insertOnLink(now, ops[random() % 8], now.links[random() % now.links.size()], nullptr);
        case 6: return setControlValue(now, "height", double(random() % 20) / 10 + 0.3);
        case 7: return renameNode(now, a, std::to_string(random()));
        case 8: return now.links.empty() ? Edit{} : weaveIn(now, a, now.links[random() % now.links.size()]);
        case 9: return addNote(now, {int(random() % 8), int(random() % 5)}, "Keep the eye below the cap", nullptr);
        case 10: return now.notes.empty() ? Edit{} : removeNote(now, now.notes[random() % now.notes.size()].id);
        case 11: {
            if (now.notes.empty()) return {};
            Note note = now.notes[random() % now.notes.size()];
            note.text += "!";
            note.cell.column = int(random() % 9);
            return changeNote(now, note);
        }
        case 12: return setTint(now, {a}, int(random() % 7));
        case 13:
            return now.nodes.size() > 30 ? Edit{} : pasteFragment(now, fragmentOf(now, {a, b}), {int(random() % 5), int(random() % 5)}, random() % 2, nullptr);
        case 14: return random() % 8 == 0 ? tidy(now) : Edit{};
        case 15: {
            Control control;
            control.id = "width";
            control.fallback = 0.5;
            return now.controls.size() > 6 || a.empty() ? Edit{} : makeControl(now, {}, a, "distance", control);
        }
        case 16: return now.controls.size() < 2 ? Edit{} : removeControl(now, now.controls.back().id);
        case 17:
            return now.controls.empty()
                     ? Edit{}
                     : moveControl(now, now.controls[random() % now.controls.size()].id, random() % now.controls.size(), random() % 2 ? "Body" : "Wear");
        case 18: return savePreset(now, "Stout");
        default: return setSettings(now, {a, b}, "distance", double(random() % 100) / 1000);
    }
}

inline Edit someEdit(const Loom& now, std::mt19937& random) {
    for (;;)
        if (Edit edit = randomEdit(now, random); !edit.empty()) return edit;
}

/// Beside those: folding and unfolding, edits inside of containers, and nodes that read files.
inline Edit someDeepEdit(const Loom& now, std::mt19937& random) {
    const auto some = [&] { return now.nodes.empty() ? std::string() : now.nodes[random() % now.nodes.size()].id; };
    for (;;) {
        Edit edit;
        const std::string a = some();
        const Node* node = now.node(a);
        switch (random() % 10) {
            case 0: edit = foldIntoNest(now, {a, some()}, nullptr); break;
            case 1: edit = unfoldNest(now, a, nullptr); break;
            case 2:
                if (node && canBeEntered(*node)) edit = lifted(now, {a}, someEdit(*node->graph, random));
                break;
            case 3: edit = addNode(now, random() % 2 ? "asset" : "import_mesh", {int(random() % 6), int(random() % 4)}, nullptr); break;
            case 4:
                if (node && node->op == "asset") edit = setSetting(now, a, "asset", random() % 3 ? Json("post.loom") : Json("parts/cap.loom"));
                if (node && node->op == "import_mesh") edit = setSetting(now, a, "file", random() % 2 ? Json("slab.obj") : Json("parts/knob.obj"));
                break;
            case 5: edit = removeNodes(now, {a}); break;
            default: edit = someEdit(now, random);
        }
        if (!edit.empty()) return edit;
    }
}

}  // namespace seedloom::test
