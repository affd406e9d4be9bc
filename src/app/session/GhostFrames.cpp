#include "app/session/GhostFrames.h"

#include "app/session/RebuildService.h"
#include "geometry/Bake.h"
#include "geometry/Rows.h"
#include "graph/NodeSpec.h"

namespace seedloom::app {

namespace {

/// The loom with another frame as the result of the step that keeps one.
std::shared_ptr<const Loom> keeping(const GhostFrames::Wish& wish, int frame) {
    if (wish.step.empty()) return wish.loom;
    auto out = std::make_shared<Loom>(*wish.loom);
    const auto step = std::find_if(out->nodes.begin(), out->nodes.end(), [&](const Node& node) { return node.id == wish.step; });
    const auto spec = step == out->nodes.end() ? nullptr : specOf(*step, wish.assets);
    if (!spec || spec->frameSetting.empty()) return wish.loom;
    Json settings = std::as_const(*step).settings;
    settings[spec->frameSetting] = frame;
    step->settings = std::move(settings);
    return out;
}

std::shared_ptr<const NodeOutcome> ghostsOf(const GhostFrames::Wish& wish, Engine& engine, const std::atomic<bool>& stop) {
    std::vector<Geometry> parts;
    std::size_t faces = 0;
    for (const int frame : wish.frames) {
        RebuildRequest request;
        request.loom = keeping(wish, frame);
        request.assets = wish.assets;
        request.controls = wish.controls;
        request.folder = wish.folder;
        request.frame = frame, request.time = frame * request.secondsPerFrame;
        request.targets = {wish.node};
        request.cancel = &stop;
        const RebuildResult result = engine.build(request);
        const Geometry* built = result.cancelled ? nullptr : result.geometry(wish.node);
        if (result.cancelled) return nullptr;
        if (!built) continue;
        faces += facesWithCopies(*built);
        if (faces > GhostFrames::kMostFaces) break;
        parts.push_back(*built);
    }
    auto out = std::make_shared<NodeOutcome>();
    out->geometry = combine(parts);
    return parts.empty() ? nullptr : out;
}

}  // namespace

GhostFrames::GhostFrames(QObject* parent) : QObject(parent), engine_(commonEngine()) {}

GhostFrames::~GhostFrames() {
    *stop_ = true;
    background_.wait();
}

void GhostFrames::want(const Wish& wish) {
    if (wish == wish_) return;
    wish_ = wish;
    *stop_ = true;
    stop_ = std::make_shared<std::atomic<bool>>(false);
    background_.clear();
    if (wish.frames.empty() || wish.node.empty()) {
        const bool had = std::exchange(outcome_, nullptr) != nullptr;
        if (had) Q_EMIT ready();
        return;
    }
    background_.start([this, wish, engine = engine_, stop = stop_]() -> Background::Then {
        std::shared_ptr<const NodeOutcome> made;
        try {
            made = ghostsOf(wish, *engine, *stop);
        } catch (const Cancelled&) {
            return {};
        } catch (const std::exception&) {
            // No memory for so many: none is better than those of another model.
        }
        return [this, made, stop] {
            if (*stop) return;
            outcome_ = made;
            Q_EMIT ready();
        };
    });
}

}  // namespace seedloom::app
