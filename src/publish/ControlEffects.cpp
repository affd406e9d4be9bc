#include "publish/ControlEffects.h"

#include "graph/PresetBlend.h"
#include "publish/TrialBuilds.h"

#include <algorithm>
#include <set>

namespace seedloom {

namespace {

constexpr int kSteps = 8, kHalvings = 5;

/// The values that are tried, in order.
std::vector<Json> valuesOf(const Control& control) {
    if (control.type == "boolean") return {false, true};
    if (control.type == "choice") return {control.choices.begin(), control.choices.end()};
    if (control.type == "color") return {Json::array({0.0, 0.0, 0.0}), Json::array({1.0, 0.5, 0.0})};
    if (control.type == "text") return {"", "Quay 3"};
    const auto least = control.min ? control.min : control.low, most = control.max ? control.max : control.high;
    std::vector<Json> out;
    if ((control.type != "number" && control.type != "integer") || !least || !most) return out;
    const Json from = fittedValue(control, *least), to = fittedValue(control, *most);
    for (int i = 0; i <= kSteps; ++i)
        if (Json value = blendedValue(control, from, to, double(i) / kSteps); out.empty() || out.back() != value) out.push_back(std::move(value));
    return out;
}

/// The share of points that are elsewhere; 1 where there are other faces or another number of points.
double shareChanged(const Geometry& before, const Geometry& after) {
    if (before.pointCount() != after.pointCount() || before.faceCount() != after.faceCount() || before.copyCount() != after.copyCount()) return 1;
    if (before.pointCount() == 0) return 0;
    std::size_t moved = 0;
    for (std::size_t i = 0; i < before.pointCount(); ++i) moved += before.positions()[i] != after.positions()[i];
    return double(moved) / double(before.pointCount());
}

class Effects {
public:
    Effects(const FitSubject& subject, const FitOptions& options) : threads_(options.threads), builds_(subject, options), loom_(builds_.loom()) {}

    std::vector<ControlEffect> all() {
        const auto plain = controlValues(loom_);
        const bool fit = builds_.judge({}, threads_, &plain_).fit();
        std::vector<ControlEffect> out;
        for (const Control& control : loom_.controls) {
            out.push_back(of(control, fit && plain ? plain->at(control.id) : Json()));
            if (builds_.stopped()) return {};
        }
        return out;
    }

private:
    ControlEffect of(const Control& control, const Json& home) {
        ControlEffect out;
        out.control = control.id;
        std::set<std::string> reached;
        double low = 0, high = 0;  // of the values that are fit, around the default
        bool lowFails = false, highFails = false;
        const bool number = home.is_number();
        if (number) low = high = home.get<double>();
        const auto values = valuesOf(control);
        for (const Json& value : values) {
            if (!allowed(control, value)) continue;
            const bool fits = tryOne(control, value, out, reached);
            if (!number) continue;
            const double v = value.get<double>();
            // From below every failure starts anew; above the default the first one ends it.
            if (v < home.get<double>()) {
                if (!fits) low = v, lowFails = true;
                else if (!lowFails) low = std::min(low, v);
            } else if (!fits && !highFails) {
                high = v, highFails = true;
            } else if (fits && !highFails) {
                high = std::max(high, v);
            }
        }
        for (const Node& node : loom_.nodes)
            if (reached.contains(node.id)) out.nodes.push_back(node.id);
        if (number && out.failed > 0) {
            if (lowFails) low = border(control, home.get<double>(), low);
            if (highFails) high = border(control, home.get<double>(), high);
            if (low < high) out.safe = std::pair(low, high);
        }
        return out;
    }

    bool allowed(const Control& control, const Json& value) const { return bool(controlValues(loom_, {{}, {{control.id, value}}})); }

    bool tryOne(const Control& control, const Json& value, ControlEffect& out, std::set<std::string>& reached) {
        RebuildResult built;
        const Verdict verdict = builds_.judge({Trial::Kind::end, {}, {{control.id, value}}}, threads_, &built);
        if (verdict.state == Verdict::State::waiting) return true;
        ++out.tried;
        out.failed += !verdict.fit();
        double ms = 0;
        for (const auto& [id, report] : built.nodes) {
            const auto before = plain_.nodes.find(id);
            if (before == plain_.nodes.end() || before->second.key == report.key) continue;
            reached.insert(id);
            if (!report.remembered) ms += report.ms;
        }
        out.ms = std::max(out.ms, ms);
        const Geometry *before = plain_.geometry(loom_.output), *after = built.geometry(loom_.output);
        if (before && after) out.changed = std::max(out.changed, shareChanged(*before, *after));
        return verdict.fit();
    }

    /// The last value on the way from one that is fit to one that is not.
    double border(const Control& control, double good, double bad) {
        const bool whole = control.type == "integer";
        for (int i = 0; i < kHalvings && !builds_.stopped(); ++i) {
            const double middle = whole ? std::trunc((good + bad) / 2) : (good + bad) / 2;
            if (whole && (middle == good || middle == bad)) break;
            const Json value = whole ? Json(std::int64_t(middle)) : Json(middle);
            (builds_.judge({Trial::Kind::end, {}, {{control.id, value}}}, threads_).fit() ? good : bad) = middle;
        }
        return good;
    }

    int threads_;
    TrialBuilds builds_;
    const Loom& loom_;
    RebuildResult plain_;
};

}  // namespace

std::vector<ControlEffect> controlEffects(const FitSubject& subject, const FitOptions& options) { return Effects(subject, options).all(); }

}  // namespace seedloom
