#include "app/workplaces/HandleGesture.h"

#include "app/workplaces/NodeHandles.h"

namespace seedloom::app {

void HandleGesture::move(Vec3 at, Vec3) {
    Document& document = session_.document();
    const Node* node = document.shown().node(session_.selection().chosen());
    if (!node) return;
    for (const auto& [setting, value] : movedHandle(*node, input_, handle_, at, line_))
        document.applyShown(setSetting(document.shown(), node->id, setting, value, document.assets()), gesture_);
}

}  // namespace seedloom::app
