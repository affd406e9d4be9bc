// What a hand does on the stage with the chosen node: its handles, its lines, gestures on the model.
#include "app/settings/SettingsPanel.h"
#include "app/settings/StrokesField.h"
#include "app/weave/Weave.h"
#include "app/widgets/LinesField.h"
#include "app/workplaces/BuildWorkplace.h"
#include "app/workplaces/CutGesture.h"
#include "app/workplaces/HandleGesture.h"
#include "app/workplaces/NodeHandles.h"
#include "app/workplaces/StrokeGestures.h"
#include "graph/Edit.h"

namespace seedloom::app {

Bounds BuildWorkplace::inputBounds(const std::string& node) const {
    const Stage::Subject input = inputOf(node);
    return input.outcome ? boundsOf(input.outcome->output(input.output)) : Bounds();
}

Stage::Handles BuildWorkplace::handlesOf(const std::string& node) const {
    const Node* found = document_.shown().node(node);
    if (!found) return {};
    NodeHandles made = handlesFor(*found, inputBounds(node), chosenLine());
    if (const StrokesField* strokes = settings_->strokes(); strokes && strokes->chosen()) addStroke(made, *found, *strokes->chosen());
    if (const auto outcome = rebuilds_.outcome(node))
        for (const Geometry& other : outcome->others) addCutLines(made, other);
    return {std::move(made.at),    std::move(made.along),  std::move(made.name), std::move(made.lines),
            std::move(made.drawn), std::move(made.chains), drawsOnSurface(found)};
}

void BuildWorkplace::insertHandle(int behind, Vec3 at) {
    const Node* node = document_.shown().node(weave_->chosen());
    if (node) applySettings(node->id, withPoint(*node, behind, at, chosenLine()));
}

void BuildWorkplace::appendHandle(int end, Vec3 at) {
    const Node* node = document_.shown().node(weave_->chosen());
    if (node) applySettings(node->id, withEnd(*node, end, at, chosenLine()));
}

void BuildWorkplace::removeHandle(int index) {
    const Node* node = document_.shown().node(weave_->chosen());
    if (node) applySettings(node->id, withoutPoint(*node, index, chosenLine()));
}

void BuildWorkplace::applySettings(const std::string& node, const std::map<std::string, Json>& settings) {
    for (const auto& [setting, value] : settings) document_.applyShown(setSetting(document_.shown(), node, setting, value, document_.assets()));
}

/// The line of a drawn curve that is chosen in its list.
std::optional<std::size_t> BuildWorkplace::chosenLine() const {
    const LinesField* lines = settings_->lines();
    return lines ? lines->chosen() : std::nullopt;
}

/// A chosen line is marked on the stage, as the curve of the result that it makes; a chosen stroke as the way that the hand went.
void BuildWorkplace::showChosenLine() {
    stage_->setHandles(handlesOf(weave_->chosen()));
    const LinesField* lines = settings_->lines();
    const auto curve = lines ? lines->chosenCurve() : std::nullopt;
    if (curve) return stage_->setMarks({Element::curve, {Index(*curve)}, {}});
    if (stage_->marks().element == Element::curve) stage_->setMarks({});
}

void BuildWorkplace::gestureOnHandle(int index, Vec3 to, int phase) {
    if (phase == 0) gesture_ = std::make_unique<HandleGesture>(session_, index, inputBounds(weave_->chosen()), chosenLine());
    runGesture(to, {}, phase);
}

void BuildWorkplace::gestureOnModel(Vec3 at, Vec3 normal, int phase) {
    if (phase == 0) {
        gesture_.reset();
        if (stage_->brush() && stage_->brush()->plane == Brush::kView) {
            if (!planeIsPlain()) return;
            gesture_ = std::make_unique<CutGesture>(session_, stage_->camera().metresPerPixel(stage_->size()) * 5);
        } else if (settings_->lines()) gesture_ = std::make_unique<DrawGesture>(session_, stage_->camera().metresPerPixel(stage_->size()));
        else if (stage_->brush() && stage_->brush()->grabs()) gesture_ = std::make_unique<GrabGesture>(session_, *stage_->brush());
        else if (stage_->brush()) gesture_ = std::make_unique<PaintGesture>(session_, *stage_->brush());
    }
    runGesture(at, normal, phase);
}

/// What a control or a formula sets is not overwritten by a hand.
bool BuildWorkplace::planeIsPlain() {
    const Node* node = document_.shown().node(weave_->chosen());
    for (const char* setting : {"origin", "normal"})
        if (node && node->settings.value(setting, Json()).is_object()) {
            Q_EMIT messageWanted(tr("The plane takes its %1 from elsewhere. Set its source to Fixed to draw it.").arg(QLatin1String(setting)));
            return false;
        }
    return node != nullptr;
}

void BuildWorkplace::runGesture(Vec3 at, Vec3 normal, int phase) {
    if (!gesture_) return;
    if (phase == 0) return gesture_->begin(at, normal);
    if (phase == 1) return gesture_->move(at, normal);
    gesture_->end();
    gesture_.reset();
}

}  // namespace seedloom::app
