// Frames of a step that follow from each other: which one it keeps as its result.
#include "app/data/TimeDrawer.h"
#include "app/weave/Weave.h"
#include "app/workplaces/BuildWorkplace.h"
#include "graph/Controls.h"
#include "graph/Edit.h"
#include "operators/Catalogue.h"

namespace seedloom::app {

namespace {

/// The control that gives a setting; empty where none does.
std::string controlOf(const Node& node, const std::string& setting) {
    const auto it = node.settings.find(setting);
    const Json written = it == node.settings.end() ? Json() : Json(*it);
    return written.is_object() && written.contains("control") && written["control"].is_string() ? written["control"].get<std::string>() : std::string();
}

/// A whole number as it is written at a node, given by a control, or by default; nothing where something else gives it.
std::optional<int> wholeIn(const Loom& loom, const Node& node, const SettingSpec& setting) {
    const auto it = node.settings.find(setting.id);
    Json value = it == node.settings.end() ? setting.fallback : Json(*it);
    if (const auto values = controlValues(loom); values)
        if (const auto given = values->find(controlOf(node, setting.id)); given != values->end()) value = given->second;
    return value.is_number() ? std::optional(value.get<int>()) : std::nullopt;
}

const OperatorSpec* withFrames(const Node* node) {
    const OperatorSpec* spec = node ? findOperator(node->op) : nullptr;
    return spec && !spec->frameSetting.empty() ? spec : nullptr;
}

}  // namespace

/// The chosen one, or the first that there is.
const Node* BuildWorkplace::frameStep() const {
    const Loom& loom = document_.loom();
    if (const Node* chosen = document_.place().path.empty() ? loom.node(weave_->chosen()) : nullptr; withFrames(chosen)) return chosen;
    const auto first = std::find_if(loom.nodes.begin(), loom.nodes.end(), [](const Node& node) { return withFrames(&node); });
    return first == loom.nodes.end() ? nullptr : &*first;
}

void BuildWorkplace::showFrames() {
    const Node* step = frameStep();
    const OperatorSpec* spec = withFrames(step);
    if (!spec) return time_->setStep({});
    const Control* control = document_.loom().control(controlOf(*step, spec->frameSetting));
    time_->setStep({QString::fromStdString(step->label.empty() ? spec->label : step->label),
                    wholeIn(document_.loom(), *step, *spec->setting(spec->frameSetting)), !control || checkedControlValue(*control, -1),
                    spec->setting("frames") != nullptr});
}

/// A step that keeps a frame is asked for others; that is remembered, whichever of them it keeps.
void BuildWorkplace::showGhosts() {
    GhostFrames::Wish wish;
    const std::string& shown = selection_.pinned().empty() ? weave_->chosen() : selection_.pinned();
    const Node* step = frameStep();
    const std::optional<int> keeps = time_->step().keeps;
    const int around = keeps && *keeps >= 0 ? *keeps : int(std::floor(time_->frame()));
    if (time_->ghostsEvery() > 0 && shownDrawer() == QLatin1String("time") && !document_.inside())
        wish = {document_.snapshot(), document_.assets(), document_.file().parent_path().string(), rebuilds_.controls(), shown, {}, time_->ghostFrames(around)};
    if (step && !time_->step().follows()) wish.step = step->id;
    ghosts_.want(wish.frames.empty() ? GhostFrames::Wish() : wish);
}

void BuildWorkplace::keepFrame(int frame) {
    const Node* step = frameStep();
    const OperatorSpec* spec = withFrames(step);
    if (!spec) return;
    const Control* control = document_.loom().control(controlOf(*step, spec->frameSetting));
    Edit edit = control ? setControlValue(document_.loom(), control->id, fittedValue(*control, Json(frame)))
                        : setSetting(document_.loom(), step->id, spec->frameSetting, frame < 0 ? Json() : Json(frame));
    edit.label = frame < 0 ? tr("Follow the frames").toStdString() : tr("Keep frame %1").arg(frame).toStdString();
    document_.apply(edit);
}

/// Builds the last frame; keepRest() looks then from where on nothing moved.
void BuildWorkplace::seekRest() {
    const Node* step = frameStep();
    const OperatorSpec* spec = withFrames(step);
    const SettingSpec* frames = spec ? spec->setting("frames") : nullptr;
    if (!frames) return;
    const int last = wholeIn(document_.loom(), *step, *frames).value_or(frames->fallback.get<int>());
    seeksRest_ = step->id, soughtAt_ = last;
    Q_EMIT messageWanted(tr("Looking for the frame at which all is at rest …"));
    if (selection_.frame() == last) return keepRest();
    selection_.setFrame(last);
}

void BuildWorkplace::keepRest() {
    if (seeksRest_.empty()) return;
    const auto outcome = rebuilds_.outcome(seeksRest_);
    if (!outcome || rebuilds_.running()) return;
    seeksRest_.clear();
    if (selection_.frame() != soughtAt_) return;  // somebody went elsewhere meanwhile
    const auto* at = outcome->geometry.values<std::int32_t>(Element::model, "settled_at");
    if (!at || at->empty() || at->front() < 0)
        return Q_EMIT messageWanted(tr("Not all is at rest by the last frame. Raise Frames, or give them more friction."));
    const int frame = at->front();
    keepFrame(frame);
    selection_.setFrame(frame);
    Q_EMIT messageWanted(tr("All is at rest from frame %1 on; it is kept.").arg(frame));
}

}  // namespace seedloom::app
