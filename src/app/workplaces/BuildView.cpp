// What is kept of how a document is looked at in Build: camera, choice, frames, sizes of the parts.
#include "app/data/TimeDrawer.h"
#include "app/look/Theme.h"
#include "app/settings/ControlsPanel.h"
#include "app/settings/SettingsPanel.h"
#include "app/stage/StageTools.h"
#include "app/weave/Weave.h"
#include "app/workplaces/BuildWorkplace.h"
#include "fields/Evaluate.h"

#include <QtCore/QSettings>
#include <QtWidgets/QSplitter>
#include <QtWidgets/QToolButton>

namespace seedloom::app {

Json BuildWorkplace::saveView() const {
    const StageCamera& c = stage_->camera();
    const auto plain = [](double v) { return std::round(v * 1e4) / 1e4; };
    Json out{{"camera",
              {{"yaw", plain(c.yaw)},
               {"pitch", plain(c.pitch)},
               {"distance", plain(c.distance)},
               {"target", {plain(double(c.target.x)), plain(double(c.target.y)), plain(double(c.target.z))}},
               {"flat", c.flat}}},
             {"chosen", document_.inside() ? document_.place().path.front() : weave_->chosen()},
             {"frames", {time_->first(), time_->last()}},
             {"shading", kShadingIds[std::size_t(stage_->tools()->look().shading)]}};
    if (const std::string attribute = stage_->tools()->look().attribute; !attribute.empty()) out["attribute"] = attribute;
    if (!selection_.pinned().empty() && !document_.inside()) out["pinned"] = selection_.pinned();
    return out;
}

/// Anything that does not fit is left as it is: a view is never a reason not to open a document.
void BuildWorkplace::restoreView(const Json& view) {
    if (!view.is_object()) return;
    const auto number = [](const Json& from, const char* key, double fallback) {
        const auto it = from.find(key);
        return it != from.end() && it->is_number() && std::isfinite(it->get<double>()) ? it->get<double>() : fallback;
    };
    if (const auto it = view.find("camera"); it != view.end() && it->is_object()) {
        StageCamera c = stage_->camera();
        c.yaw = number(*it, "yaw", c.yaw);
        c.pitch = std::clamp(number(*it, "pitch", c.pitch), -90.0, 90.0);
        c.distance = std::clamp(number(*it, "distance", c.distance), 1e-4, 1e6);
        c.flat = it->contains("flat") && (*it)["flat"] == Json(true);
        Numbers target;
        if (it->contains("target") && numbersOf((*it)["target"], target) && target.components == 3)
            c.target = {float(target.value[0]), float(target.value[1]), float(target.value[2])};
        stage_->setCamera(c);
    }
    const auto word = [&](const char* key) { return view.contains(key) && view[key].is_string() ? view[key].get<std::string>() : std::string(); };
    for (std::size_t i = 0; i < kShadingIds.size(); ++i)
        if (word("shading") == kShadingIds[i]) stage_->tools()->setShading(static_cast<Shading>(i));
    if (!word("attribute").empty()) stage_->setAttribute(QString::fromStdString(word("attribute")));
    if (document_.shown().node(word("chosen"))) weave_->choose(word("chosen"));
    if (document_.shown().node(word("pinned"))) selection_.pin(word("pinned"));
    Numbers frames;
    if (view.contains("frames") && numbersOf(view["frames"], frames) && frames.components == 2 && std::abs(frames.value[0]) < 1e6 &&
        std::abs(frames.value[1]) < 1e6)
        time_->setRange(int(frames.value[0]), int(frames.value[1]));
}

void BuildWorkplace::restoreLayout(const QString& key) {
    const QSettings settings;
    const auto kept = [&](const char* part) { return settings.value(key + QLatin1String(part)).toByteArray(); };
    across_->setSizes({880, px(344)});
    down_->setSizes({492, 208, 0});
    if (!kept("across").isEmpty()) across_->restoreState(kept("across"));
    if (!kept("down").isEmpty()) down_->restoreState(kept("down"));
    if (!kept("side").isEmpty()) sideFitted_ = side_->restoreState(kept("side"));
    const QString drawer = settings.value(key + QStringLiteral("drawer")).toString();
    if (!drawer.isEmpty()) showDrawer(drawer);
}

void BuildWorkplace::saveLayout(const QString& key) const {
    QSettings settings;
    settings.setValue(key + QStringLiteral("across"), across_->saveState());
    settings.setValue(key + QStringLiteral("down"), down_->saveState());
    settings.setValue(key + QStringLiteral("side"), side_->saveState());
    settings.setValue(key + QStringLiteral("drawer"), shownDrawer());
}

std::function<void()> BuildWorkplace::keepState() {
    const Json view = saveView();
    const auto chosen = weave_->chosenAll();
    const QString drawer = shownDrawer();
    const SceneLook look = stage_->tools()->look();
    const QStringList overlays = stage_->tools()->overlaysOn();
    const QByteArray across = across_->saveState(), down = down_->saveState(), side = side_->saveState();
    return [=, this] {
        across_->restoreState(across);
        side_->restoreState(side);
        restoreView(view);
        stage_->tools()->takeFrom(look, overlays);
        weave_->chooseAll(chosen);
        settings_->setNodes(chosen);  // nothing new is chosen, but the panel is
        showNotices();
        if (!drawer.isEmpty()) showDrawer(drawer);
        down_->restoreState(down);
        showChosen();
    };
}

void BuildWorkplace::fitSide(int height) {
    if (std::exchange(sideFitted_, true)) return;
    const int wanted = std::min(controls_->wantedHeight() + 24, height / 2);
    side_->setSizes({wanted, height - wanted});
}

void BuildWorkplace::growControls() {
    const int height = side_->height(), wanted = std::min(controls_->wantedHeight() + 24, height / 2);
    if (sideFitted_ && side_->sizes().front() < wanted) side_->setSizes({wanted, height - wanted});
}

}  // namespace seedloom::app
