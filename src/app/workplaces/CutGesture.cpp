#include "app/workplaces/CutGesture.h"

#include "app/workplaces/NodeHandles.h"

namespace seedloom::app {

void CutGesture::begin(Vec3 at, Vec3 towardsEye) {
    gesture_ = session_.document().newGesture();
    from_ = at, fromEye_ = towardsEye;
}

void CutGesture::move(Vec3 at, Vec3 towardsEye) {
    Document& document = session_.document();
    const Node* node = document.shown().node(session_.selection().chosen());
    const Vec3 normal = normalized(cross(fromEye_ + towardsEye, at - from_), {});
    if (!node || double(distance(at, from_)) < shortest_ || length(normal) < 0.5f) return;
    const std::string id = node->id;
    for (const auto& [setting, value] : {std::pair{"origin", mix(from_, at, 0.5f)}, std::pair{"normal", normal}})
        document.applyShown(setSetting(document.shown(), id, setting, vectorJson(value), document.assets()), gesture_);
}

}  // namespace seedloom::app
