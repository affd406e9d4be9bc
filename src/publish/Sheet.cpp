#include "publish/Sheet.h"

#include "geometry/Bake.h"
#include "geometry/Checkup.h"
#include "graph/Controls.h"
#include "graph/NodeSpec.h"
#include "publish/TrialBuilds.h"
#include "render/RenderedPicture.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <mutex>

namespace seedloom {

namespace {

constexpr int kMainWide = 640, kMainHigh = 400, kMainSamples = 16, kSmallSamples = 9;
constexpr std::size_t kMostChoices = 6;

std::string shownValue(const Json& value, const Control& control) {
    const std::string unit = control.unit.empty() ? std::string() : " " + control.unit;
    if (value.is_boolean()) return value.get<bool>() ? "yes" : "no";
    if (value.is_number()) return fmt::format("{:.4g}{}", value.get<double>(), unit);
    if (value.is_string()) return value.get<std::string>().empty() ? "empty" : value.get<std::string>();
    if (!value.is_array()) return control.type;
    std::vector<std::string> parts;
    for (const Json& part : value) parts.push_back(part.is_number() ? fmt::format("{:.3g}", part.get<double>()) : part.dump());
    return fmt::format("{}{}", fmt::join(parts, ", "), unit);
}

std::string rangeOf(const Control& control) {
    const std::string unit = control.unit.empty() ? std::string() : " " + control.unit;
    if (!control.choices.empty()) return fmt::format("{}", fmt::join(control.choices, ", "));
    if (control.type == "boolean") return "yes or no";
    if (control.min && control.max) return fmt::format("{:g} to {:g}{}", *control.min, *control.max, unit);
    if (control.min) return fmt::format("from {:g}{}", *control.min, unit);
    if (control.max) return fmt::format("up to {:g}{}", *control.max, unit);
    return control.type == "color" ? "a colour" : control.type == "integer" ? "a whole number" : "a " + control.type;
}

/// The values of a control that are shown.
std::vector<Json> shownValues(const Control& control, const Json& normal) {
    std::vector<Json> out;
    const auto add = [&](const Json& value) {
        if (checkedControlValue(control, value) && std::find(out.begin(), out.end(), value) == out.end()) out.push_back(value);
    };
    if (control.type == "boolean") return {false, true};
    if (!control.choices.empty()) {
        for (const std::string& choice : control.choices)
            if (out.size() < kMostChoices) add(choice);
        return out;
    }
    const auto range = sliderRange(control);
    const bool whole = control.type == "integer";
    if (range && normal.is_number()) {
        const auto number = [&](double value) { return whole ? Json(std::int64_t(std::llround(value))) : Json(value); };
        add(number(range->first));
        add(whole ? number(normal.get<double>()) : Json(normal.get<double>()));
        add(number(range->second));
        std::sort(out.begin(), out.end());
        return out;
    }
    return {normal};
}

/// One setting that is built, and where its result goes.
struct Wanted {
    Trial trial;
    SheetEntry* to;
};

class SheetMaker {
public:
    SheetMaker(const FitSubject& subject, const SheetOptions& options) : options_(options), builds_(subject, fit_) {
        fit_.cancel = options.cancel;
        loom_ = &builds_.loom();
    }

    Result<AssetSheet> run() {
        const auto values = controlValues(*loom_);
        if (!values) return values.error();
        sheet_.about = aboutOf(*loom_);
        sheet_.inputs = pluggedNamesIn(*loom_);
        list(*values);
        try {
            if (auto error = mainPicture()) return *error;
            build();
        } catch (const Cancelled&) {
            return Error{"sheet.cancelled", "The sheet was cancelled."};
        }
        return std::move(sheet_);
    }

private:
    void list(const ControlValues& values) {
        sheet_.presets.reserve(loom_->presets.size());
        for (const Preset& preset : loom_->presets) {
            sheet_.presets.push_back({preset.name, {}, 0, {}});
            wanted_.push_back({{Trial::Kind::preset, preset.name, {}}, &sheet_.presets.back()});
        }
        sheet_.controls.reserve(loom_->controls.size());
        for (const Control& control : loom_->controls) {
            SheetControl& to = sheet_.controls.emplace_back();
            to.label = control.label.empty() ? control.id : control.label;
            to.section = control.section, to.help = control.help, to.range = rangeOf(control);
            const auto shown = shownValues(control, values.at(control.id));
            to.entries.reserve(shown.size());
            for (const Json& value : shown) {
                const bool normal = value == values.at(control.id);
                to.entries.push_back({shownValue(value, control) + (normal ? ", the default" : ""), {}, 0, {}});
                wanted_.push_back(
                    {{normal ? Trial::Kind::plain : Trial::Kind::end, {}, normal ? ControlValues{} : ControlValues{{control.id, value}}}, &to.entries.back()});
            }
        }
    }

    Geometry built(const Trial& trial, int threads, std::string& problem) {
        RebuildResult result;
        const Verdict verdict = builds_.build(trial, threads, result);
        const Geometry* geometry = result.geometry(loom_->output);
        if (!geometry || bakedCounts(*geometry).points == 0) problem = verdict.faults.empty() ? "Nothing was built." : verdict.faults.front();
        return geometry ? *geometry : Geometry();
    }

    std::optional<Error> mainPicture() {
        const Geometry model = built({}, options_.threads, sheet_.main.problem);
        if (options_.cancel && *options_.cancel) throw Cancelled();
        if (!sheet_.main.problem.empty()) return Error{"sheet.build", "At its defaults the loom builds nothing. " + sheet_.main.problem};
        const ElementCounts counts = bakedCounts(model);
        sheet_.points = counts.points, sheet_.faces = counts.faces, sheet_.main.triangles = counts.triangles;
        sheet_.copies = model.copyCount();
        sheet_.fewest = sheet_.most = counts.triangles;
        bounds_ = boundsOf(model);
        const Vec3 size = bounds_.size();
        sheet_.size = fmt::format("{:.3g} × {:.3g} × {:.3g} m", size.x, size.y, size.z);
        sheet_.closed = bakesEasily(model) && checkupOf(bakeCopies(model)).closed;
        sheet_.main.picture = pictureOf(model, kMainWide, kMainHigh, kMainSamples, bounds_);
        return {};
    }

    std::shared_ptr<const Picture> pictureOf(const Geometry& model, int wide, int high, int samples, const Bounds& framing) const {
        RenderOptions look;
        look.width = wide, look.height = high, look.samples = samples, look.framing = framing;
        return std::make_shared<const Picture>(renderedPicture(model, look, RunContext(options_.cancel)));
    }

    /// Models are kept until all of a row are there: they are looked at from one place.
    void build() {
        std::vector<Geometry> models(wanted_.size());
        std::size_t done = 0;
        std::mutex telling;
        const auto each = [&](std::size_t i) {
            models[i] = built(wanted_[i].trial, 1, wanted_[i].to->problem);
            wanted_[i].to->triangles = bakedCounts(models[i]).triangles;
            const std::lock_guard lock(telling);
            ++done;
            if (options_.onEntry) options_.onEntry(done, wanted_.size());
        };
        sideBySide(wanted_.size(), options_.threads, each);
        if (options_.cancel && *options_.cancel) throw Cancelled();
        for (const Wanted& one : wanted_) {
            if (!one.to->problem.empty()) continue;
            sheet_.fewest = std::min(sheet_.fewest, one.to->triangles);
            sheet_.most = std::max(sheet_.most, one.to->triangles);
        }
        for (std::size_t begin = 0, end = 0; begin < wanted_.size(); begin = end) {
            for (end = begin; end < wanted_.size() && sameRow(begin, end); ++end) {}
            Bounds framing = bounds_;
            for (std::size_t i = begin; i < end; ++i)
                if (const Bounds one = boundsOf(models[i]); !one.empty) framing.add(one.min), framing.add(one.max);
            for (std::size_t i = begin; i < end; ++i)
                if (wanted_[i].to->problem.empty()) wanted_[i].to->picture = smallPicture(wanted_[i].trial, models[i], framing);
        }
    }

    /// The defaults stand in many rows, most of them seen from the same place.
    std::shared_ptr<const Picture> smallPicture(const Trial& trial, const Geometry& model, const Bounds& framing) {
        if (trial.kind != Trial::Kind::plain) return pictureOf(model, kSheetPictureWide, kSheetPictureHigh, kSmallSamples, framing);
        auto& kept = plain_[{framing.min.x, framing.min.y, framing.min.z, framing.max.x, framing.max.y, framing.max.z}];
        if (!kept) kept = pictureOf(model, kSheetPictureWide, kSheetPictureHigh, kSmallSamples, framing);
        return kept;
    }

    bool sameRow(std::size_t a, std::size_t b) const { return rowOf(a) == rowOf(b); }
    /// Presets are one row, each control is another.
    const void* rowOf(std::size_t i) const {
        for (const SheetControl& control : sheet_.controls)
            if (wanted_[i].to >= control.entries.data() && wanted_[i].to < control.entries.data() + control.entries.size()) return &control;
        return &sheet_.presets;
    }

    const SheetOptions& options_;
    FitOptions fit_;
    TrialBuilds builds_;
    const Loom* loom_;
    AssetSheet sheet_;
    std::vector<Wanted> wanted_;
    Bounds bounds_;
    std::map<std::array<float, 6>, std::shared_ptr<const Picture>> plain_;  ///< of the defaults, by what is framed
};

}  // namespace

std::vector<std::pair<std::string, std::string>> sheetFacts(const AssetSheet& sheet) {
    std::vector<std::pair<std::string, std::string>> out{{"Version", sheet.about.version},
                                                         {"Author", sheet.about.author},
                                                         {"Licence", sheet.about.licence},
                                                         {"Size", sheet.size},
                                                         {"Triangles",
                                                          fmt::format("{}, from {} to {} over this sheet", sheet.main.triangles, sheet.fewest, sheet.most)},
                                                         {"Points", std::to_string(sheet.points)},
                                                         {"Faces", std::to_string(sheet.faces)},
                                                         {"Copies", sheet.copies > 0 ? std::to_string(sheet.copies) : std::string()},
                                                         {"Solid", sheet.closed ? "closed" : "with open edges"},
                                                         {"Takes", fmt::format("{}", fmt::join(sheet.inputs, ", "))}};
    std::erase_if(out, [](const auto& fact) { return fact.second.empty(); });
    return out;
}

Result<AssetSheet> assetSheet(const FitSubject& subject, const SheetOptions& options) { return SheetMaker(subject, options).run(); }

}  // namespace seedloom
