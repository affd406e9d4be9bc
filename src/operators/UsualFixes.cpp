#include "operators/UsualFixes.h"

#include "geometry/ElementTransfer.h"
#include "operators/Catalogue.h"

#include <fmt/format.h>

namespace seedloom {

namespace {

std::string labelOfOperator(const std::string& op) {
    const OperatorSpec* spec = findOperator(op);
    return spec ? spec->label : op;
}

NoticeFix before(const std::string& op, std::map<std::string, Json> settings = {}, std::string port = {}) {
    return insertFix(fmt::format("Put {} before it", labelOfOperator(op)), op, std::move(settings), std::move(port));
}

/// What an error is about: the input whose name its text begins with or holds, else the first.
class Trouble {
public:
    Trouble(const OperatorSpec& spec, const OperatorInput& input, const Notice& notice) : spec_(spec), input_(input), notice_(notice) {}

    std::vector<NoticeFix> fixes() const {
        std::vector<NoticeFix> out = byCode();
        if (out.empty()) out = bySetting();
        if (out.empty() && has(0)) out.push_back(showInput());
        return out.empty() ? mostChanged() : out;
    }

private:
    bool has(std::size_t port) const { return port < input_.ports.size() && !input_.ports[port].empty(); }
    const Geometry& in(std::size_t port) const {
        static const Geometry none;
        return has(port) ? input_.ports[port].front() : none;
    }
    bool ends(std::string_view ending) const { return notice_.code.ends_with(ending); }
    std::string portId(std::size_t port) const { return port == 0 || port >= spec_.inputs.size() ? std::string() : spec_.inputs[port].id; }

    NoticeFix showInput() const {
        NoticeFix out = showFix("Show what comes in", Element::point, {});
        out.port = spec_.inputs.empty() ? std::string() : spec_.inputs.front().id;
        return out;
    }

    std::vector<NoticeFix> byCode() const {
        const std::string& code = notice_.code;
        if (code == "surface.none" || code == "scatter.no_faces") return wantsFaces(portSaid());
        if (code == "curve.none" || code == "cut.no_lines" || code == "scatter.no_curves") return wantsCurves(portSaid());
        if (code == "input.missing" && notice_.setting.empty()) return {missingInputFix(spec_, input_, portSaid())};
        if (code == "mesh.winding") return {before("orient")};
        if (code == "mesh.non_manifold_edge") return {before("voxel_remesh")};
        if (code == "mesh.degenerate_face") return {before("weld")};
        if (ends(".uv")) return {before("uv_project", {}, portId(portSaid()))};
        if (code == "limit.elements" || code == "limit.memory") return mostChanged();
        if (code == "copies.no_shape" || code == "beads.none") return {missingInputFix(spec_, input_, portSaid())};
        return {};
    }

    /// The number that is farthest from its default, which is known to be possible.
    std::vector<NoticeFix> mostChanged() const {
        const SettingSpec* most = nullptr;
        double beyond = 1;
        for (const SettingSpec& setting : spec_.settings) {
            if (!input_.settings || !setting.numeric()) continue;
            const auto it = input_.settings->find(setting.id);
            if (it == input_.settings->end()) continue;
            const auto* fixed = std::get_if<FixedSource>(&it->second);
            const double ratio = fixed ? timesLarger(fixed->value, setting.fallback) : sourceToJson(it->second) == setting.fallback ? 1 : 2;
            if (ratio > beyond) beyond = ratio, most = &setting;
        }
        return most ? std::vector{setFix(fmt::format("Set {} back", most->label), most->id, Json())} : std::vector<NoticeFix>();
    }
    /// How many times, up or down: a spacing can be too small as well as a count too large.
    static double timesLarger(const Json& value, const Json& usual) {
        Numbers a, b;
        if (!numbersOf(value, a) || !numbersOf(usual, b)) return 1;
        double out = 1;
        for (std::size_t c = 0; c < std::size_t(a.components); ++c) {
            const double now = std::abs(a.value[c]), before = std::abs(b.value[std::min(c, std::size_t(b.components) - 1)]);
            if (now != before) out = std::max({out, (now + 1e-9) / (before + 1e-9), (before + 1e-9) / (now + 1e-9)});
        }
        return out;
    }

    /// The input that the text names, as "… in Curves", "The target …".
    std::size_t portSaid() const {
        std::string text = notice_.text;
        std::transform(text.begin(), text.end(), text.begin(), [](unsigned char c) { return std::tolower(c); });
        for (std::size_t p = spec_.inputs.size(); p-- > 1;) {
            std::string label = spec_.inputs[p].label;
            std::transform(label.begin(), label.end(), label.begin(), [](unsigned char c) { return std::tolower(c); });
            if (text.find(label) != std::string::npos) return p;
        }
        return 0;
    }

    std::vector<NoticeFix> wantsFaces(std::size_t port) const {
        if (!has(port)) return {missingInputFix(spec_, input_, port)};
        const Geometry& given = in(port);
        if (given.curveCount() == 0) return {showInput()};
        std::vector<NoticeFix> out;
        const auto& closed = given.topology().curveClosed();
        if (std::find(closed.begin(), closed.end(), 1) != closed.end()) out.push_back(before("fill_curve", {}, portId(port)));
        out.push_back(before("sweep", {}, portId(port)));
        return out;
    }
    std::vector<NoticeFix> wantsCurves(std::size_t port) const {
        if (!has(port)) return {missingInputFix(spec_, input_, port)};
        if (in(port).faceCount() > 0) return {before("feature_curves", {}, portId(port))};
        return {};
    }

    std::vector<NoticeFix> bySetting() const {
        const SettingSpec* setting = spec_.setting(notice_.setting);
        if (!setting || !input_.settings) return {};
        const auto written = input_.settings->find(setting->id);
        if (written == input_.settings->end()) return {};
        if (auto near = nearName(written->second)) return {setFix(fmt::format("Take {} for {}", near->first, setting->label), setting->id, near->second)};
        if (isWork(*setting) || notice_.code.starts_with("formula.") || isFallback(*setting, sourceToJson(written->second)))
            return {askFix(fmt::format("{} {}", setting->type == SettingType::file ? "Choose" : "Change", setting->label), setting->id)};
        return {setFix(fmt::format("Set {} back", setting->label), setting->id, Json())};
    }
    /// A choice may be written by its number.
    static bool isFallback(const SettingSpec& setting, const Json& value) {
        if (!value.is_number() || setting.choices.empty()) return value == setting.fallback;
        const double at = value.get<double>();
        return at >= 0 && at < double(setting.choices.size()) && setting.choices[std::size_t(at)] == setting.fallback;
    }
    /// What somebody wrote, drew or chose is not thrown away for a slip in it.
    static bool isWork(const SettingSpec& setting) {
        switch (setting.type) {
            case SettingType::file:
            case SettingType::formula:
            case SettingType::points:
            case SettingType::strokes:
            case SettingType::lines:
            case SettingType::materials:
            case SettingType::ramp: return true;
            default: return false;
        }
    }
    /// For a name that does not exist: the nearest that does, and the setting with it.
    std::optional<std::pair<std::string, Json>> nearName(Source source) const {
        const bool unknown = notice_.code == "setting.unknown_attribute" || notice_.code == "setting.unknown_control";
        if (!unknown) return {};
        if (auto* attribute = std::get_if<AttributeSource>(&source)) {
            const auto near = similarNames(attribute->name, attributeNames(in(0)), 1);
            if (near.empty() || near.front() == attribute->name) return {};
            attribute->name = near.front();
            return std::pair(near.front(), sourceToJson(source));
        }
        if (auto* control = std::get_if<ControlSource>(&source)) {
            std::vector<std::string> known;
            for (const auto& [id, value] : input_.controls) known.push_back(id);
            const auto near = similarNames(control->control, known, 1);
            if (near.empty() || near.front() == control->control) return {};
            control->control = near.front();
            return std::pair(near.front(), sourceToJson(source));
        }
        const auto* fixed = std::get_if<FixedSource>(&source);
        if (!fixed || !fixed->value.is_string()) return {};
        const auto near = similarNames(fixed->value.get<std::string>(), attributeNames(in(0)), 1);
        return near.empty() ? std::nullopt : std::optional(std::pair(near.front(), Json(near.front())));
    }

    const OperatorSpec& spec_;
    const OperatorInput& input_;
    const Notice& notice_;
};

}  // namespace

NoticeFix missingInputFix(const OperatorSpec& spec, const OperatorInput& input, std::size_t port) {
    // The first input says what it takes; shapes to copy and solids to cut with are solids.
    const std::string id = port == 0 ? std::string() : spec.inputs[port].id;
    const bool curve = port == 0 ? spec.takes == Takes::curves : id.find("curve") != std::string::npos || id == "profile";
    // Lines along which something breaks are drawn on it.
    if (curve && port > 0 && spec.family == Family::breaking && !input.ports[0].empty() && input.ports[0].front().faceCount() > 0) {
        NoticeFix out = insertFix("Draw lines on it", "drawn_curve", {}, id);
        out.from = spec.inputs.front().id;
        return out;
    }
    // What is turned lies beside its axis.
    if (spec.id == "revolve") return insertFix("Draw a profile", "point_list", {}, id);
    const std::string op = curve ? "polygon" : "box";
    return insertFix(fmt::format("Put a {} there", labelOfOperator(op)), op, {}, id);
}

std::vector<NoticeFix> usualFixes(const OperatorSpec& spec, const OperatorInput& input, const Notice& notice) { return Trouble(spec, input, notice).fixes(); }

}  // namespace seedloom
