#include "operators/OperatorCall.h"

#include "operators/NearWords.h"
#include "operators/PlainValues.h"
#include "operators/UsualFixes.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <limits>
#include <new>

namespace seedloom {

const Geometry& OperatorCall::in() const {
    static const Geometry none;
    return input_.ports.empty() || input_.ports.front().empty() ? none : input_.ports.front().front();
}

const SettingSpec& OperatorCall::specOf(std::string_view id) const { return *spec_.setting(id); }

const Source& OperatorCall::source(std::string_view id) const { return input_.settings->find(std::string(id))->second; }

FieldContext OperatorCall::context(const Geometry* geometry, Element element, bool perElement) const {
    return {geometry, element, perElement, input_.time, input_.frame, &input_.controls, input_.words.empty() ? nullptr : &input_.words, &run_};
}

void OperatorCall::tell(NoticeLevel level, std::string code, std::string text, std::string setting) {
    tell(level, Error{std::move(code), std::move(text)}, std::move(setting));
}

void OperatorCall::tell(NoticeLevel level, const Error& error, std::string setting) {
    for (const Notice& told : notices_)
        if (told.code == error.code && told.text == error.text && told.setting == setting) return;
    notices_.push_back({level, error.code, error.text, std::move(setting), {}, error.line, error.column, std::exchange(offered_, {})});
}

void OperatorCall::fail(std::string code, std::string text, std::string setting) const {
    throw OperatorFailure{{NoticeLevel::error, std::move(code), std::move(text), std::move(setting), {}, 0, 0, std::exchange(offered_, {})}};
}

void OperatorCall::failBy(const FieldError& error, const SettingSpec& spec) const {
    Error said = error.error();
    said.text = fmt::format("{}: {}", spec.label, said.text);
    fail(said, spec.id);
}

void OperatorCall::fail(const Error& error, std::string setting) const {
    if (const auto written = setting.empty() ? input_.settings->end() : input_.settings->find(setting); written != input_.settings->end())
        for (NoticeFix& fix : nearWordFixes(written->second, error, setting)) offer(std::move(fix));
    throw OperatorFailure{{NoticeLevel::error, error.code, error.text, std::move(setting), {}, error.line, error.column, std::exchange(offered_, {})}};
}

void OperatorCall::checkRange(const SettingSpec& spec, double value) const {
    if (!std::isfinite(value)) fail("setting.range", fmt::format("{} is not a finite number. Change what it is computed from.", spec.label), spec.id);
    if ((spec.min && value < *spec.min) || (spec.max && value > *spec.max)) {
        // The largest count that is allowed is seldom one to wait for: the end of the slider is.
        const double most = spec.type == SettingType::integer && spec.high ? *spec.high : spec.max.value_or(0);
        const double nearest = spec.min && value < *spec.min ? *spec.min : most;
        if (spec.fallback.is_number() && std::holds_alternative<FixedSource>(source(spec.id)))
            offer(setFix(fmt::format("Set {} to {:g}", spec.label, nearest), spec.id, nearest));
        fail("setting.range", fmt::format("{} is {:g}, and must be {}.", spec.label, value, limitsInWords(spec)), spec.id);
    }
}

Numbers OperatorCall::single(std::string_view id) const {
    const SettingSpec& spec = specOf(id);
    if (const auto* plain = std::get_if<FixedSource>(&source(id)))
        if (const auto problem = plainValueProblem(spec, plain->value); problem && problem->code == "setting.type") fail(*problem, spec.id);
    const Geometry* geometry = input_.ports.empty() || input_.ports.front().empty() ? nullptr : &in();
    try {
        const Numbers numbers = evaluate(source(id), context(geometry, Element::model, false));
        for (int c = 0; c < numbers.components; ++c) checkRange(spec, numbers.value[c]);
        return numbers;
    } catch (const FieldError& error) {
        failBy(error, spec);
    }
}

double OperatorCall::number(std::string_view id) const {
    const Numbers numbers = single(id);
    if (numbers.components != 1) fail("setting.type", fmt::format("{} needs one number, not {}.", specOf(id).label, numbers.components), std::string(id));
    return numbers.value[0];
}

int OperatorCall::integer(std::string_view id) const {
    const double value = std::floor(number(id) + 0.5);
    if (std::abs(value) > 2e9)
        fail("setting.range", fmt::format("{} is {:g}, which is larger than any count can be.", specOf(id).label, value), std::string(id));
    return static_cast<int>(value);
}

bool OperatorCall::flag(std::string_view id) const { return number(id) != 0; }

Vec2 OperatorCall::vec2(std::string_view id) const {
    const Numbers n = single(id);
    if (n.components > 2) fail("setting.type", fmt::format("{} needs two numbers, not {}.", specOf(id).label, n.components), std::string(id));
    return {float(n.value[0]), float(n.value[n.components == 1 ? 0 : 1])};
}

Vec3 OperatorCall::vec3(std::string_view id) const {
    const Numbers n = single(id);
    if (n.components == 2 || n.components == 4)
        fail("setting.type", fmt::format("{} needs three numbers, not {}.", specOf(id).label, n.components), std::string(id));
    if (n.components == 1) return {float(n.value[0]), float(n.value[0]), float(n.value[0])};
    return {float(n.value[0]), float(n.value[1]), float(n.value[2])};
}

const Json& OperatorCall::fixed(std::string_view id) const {
    const Source* found = &source(id);
    if (const auto* control = std::get_if<ControlSource>(found)) {
        const auto it = input_.controls.find(control->control);
        if (it == input_.controls.end())
            fail("setting.unknown_control", fmt::format("{}: there is no control '{}'.", specOf(id).label, control->control), std::string(id));
        return it->second;
    }
    if (const auto* plain = std::get_if<FixedSource>(found)) return plain->value;
    fail("setting.source", fmt::format("{} takes a plain value or a control, no {}.", specOf(id).label, sourceKind(*found)), std::string(id));
}

std::string OperatorCall::text(std::string_view id) const {
    const Json& value = fixed(id);
    if (!value.is_string()) fail("setting.type", fmt::format("{} must be a text, not {}.", specOf(id).label, value.dump()), std::string(id));
    return value.get<std::string>();
}

std::string OperatorCall::choice(std::string_view id) const {
    const SettingSpec& spec = specOf(id);
    const Json& value = fixed(id);
    // A control can pick by number; files hold the word.
    if (value.is_number()) {
        const double at = value.get<double>();
        if (at >= 0 && at < double(spec.choices.size())) return spec.choices[static_cast<std::size_t>(at)];
    }
    if (value.is_string())
        for (const std::string& word : spec.choices)
            if (word == value.get_ref<const std::string&>()) return word;
    fail("setting.choice", fmt::format("{}: {} is not one of: {}.", spec.label, value.dump(), fmt::join(spec.choices, ", ")), spec.id);
}

Ramp OperatorCall::ramp(std::string_view id) const {
    const auto read = rampFromJson(fixed(id));
    if (!read) fail(read.error().code, fmt::format("{}: {}", specOf(id).label, read.error().text), std::string(id));
    return *read;
}

std::vector<Vec3> OperatorCall::points(std::string_view id) const { return pointsIn(fixed(id), id); }

const Json* OperatorCall::unfinished(std::string_view id) const {
    if (input_.unfinished.setting != id) return nullptr;
    const auto* list = std::get_if<FixedSource>(&source(id));
    return list && list->value.is_array() ? &input_.unfinished.item : nullptr;
}

std::vector<std::vector<Vec3>> OperatorCall::lines(std::string_view id) const {
    const Json& value = fixed(id);
    if (!value.is_array()) fail("setting.type", fmt::format("{} must be a list of lines, each a list of points [x, y, z].", specOf(id).label), std::string(id));
    std::vector<std::vector<Vec3>> out;
    for (std::size_t i = 0; i < value.size(); ++i)
        if (!lineHidden(value[i])) out.push_back(pointsIn(pointsOfLine(value[i]), id, fmt::format("line {}, ", i + 1)));
    return out;
}

std::vector<std::pair<Material, double>> OperatorCall::materials(std::string_view id) const {
    const Json& value = fixed(id);
    const auto wrong = [&](const char* what) {
        fail("setting.type", fmt::format("{}: {}. Write a list of {{\"name\": …, \"color\": [r, g, b]}}.", specOf(id).label, what), std::string(id));
    };
    if (!value.is_array()) wrong("this is no list");
    std::vector<std::pair<Material, double>> out;
    const auto numberIn = [&](const Json& json, const char* key, double fallback, double most) {
        const auto it = json.find(key);
        if (it == json.end()) return fallback;
        if (!it->is_number() || !std::isfinite(it->get<double>()) || it->get<double>() < 0 || it->get<double>() > most)
            wrong("a number is missing, or out of range");
        return it->get<double>();
    };
    for (const Json& json : value) {
        if (!json.is_object() || !json.contains("name") || !json["name"].is_string()) wrong("an entry has no name");
        Material material{json["name"].get<std::string>()};
        if (const auto color = json.find("color"); color != json.end()) {
            Numbers n;
            if (!numbersOf(*color, n) || n.components != 3) wrong("a colour is no list of three numbers");
            for (int c = 0; c < 3; ++c) material.color[c] = std::clamp(float(n.value[std::size_t(c)]), 0.0f, 1.0f);
        }
        material.roughness = float(numberIn(json, "roughness", double(material.roughness), 1));
        material.metalness = float(numberIn(json, "metalness", double(material.metalness), 1));
        out.push_back({std::move(material), numberIn(json, "share", 1, 1e9)});
    }
    return out;
}

std::filesystem::path OperatorCall::file(std::string_view id) const {
    const std::filesystem::path written = text(id);
    return written.is_absolute() || input_.folder.empty() ? written : std::filesystem::path(input_.folder) / written;
}

std::string OperatorCall::bytesOf(std::string_view id) const {
    auto bytes = files().read(file(id));
    if (!bytes) fail("file.read", bytes.error().text + " Choose the file again.", std::string(id));
    return std::move(*bytes);
}

std::vector<Vec3> OperatorCall::pointsIn(const Json& value, std::string_view id, const std::string& where) const {
    std::vector<Vec3> out;
    const auto wrong = [&](std::size_t i) {
        fail("setting.type", fmt::format("{}: {}entry {} is no point. Write [x, y, z].", specOf(id).label, where, i + 1), std::string(id));
    };
    if (!value.is_array())
        fail("setting.type", fmt::format("{}{} must be a list of points [x, y, z].", specOf(id).label, where.empty() ? "" : ": each line"), std::string(id));
    run_.require(double(value.size()), "points");
    for (std::size_t i = 0; i < value.size(); ++i) {
        Numbers n;
        if (!numbersOf(value[i], n) || n.components != 3) wrong(i);
        const Vec3 p{float(n.value[0]), float(n.value[1]), float(n.value[2])};
        if (!isFinite(p)) wrong(i);
        out.push_back(p);
    }
    return out;
}

ValueRange OperatorCall::range(std::string_view id) const {
    const auto out = valueRange(fixed(id));
    if (!out) fail("setting.type", fmt::format("{} must be \"auto\", \"auto 2 %\" or two numbers.", specOf(id).label), std::string(id));
    return *out;
}

Field<float> OperatorCall::each(std::string_view id, const Geometry& geometry) const { return each(id, geometry, specOf(id).element); }

Field<float> OperatorCall::each(std::string_view id, const Geometry& geometry, Element element) const {
    const SettingSpec& spec = specOf(id);
    try {
        Field<float> field = evaluateFloat(source(id), context(&geometry, element, true));
        if (field.uniform) checkRange(spec, double(field.value));
        // Per-element values may leave the range here and there (noise around a limit): they are held, not refused.
        for (float& v : field.values) {
            if (spec.min && v < float(*spec.min)) v = float(*spec.min);
            if (spec.max && v > float(*spec.max)) v = float(*spec.max);
        }
        return field;
    } catch (const FieldError& error) {
        failBy(error, spec);
    }
}

Field<Vec3> OperatorCall::each3(std::string_view id, const Geometry& geometry, Element element) const {
    try {
        return evaluateVec3(source(id), context(&geometry, element, true));
    } catch (const FieldError& error) {
        failBy(error, specOf(id));
    }
}

Numbers OperatorCall::eachNumbers(std::string_view id, const Geometry& geometry, Element element) const {
    try {
        return evaluate(source(id), context(&geometry, element, true));
    } catch (const FieldError& error) {
        failBy(error, specOf(id));
    }
}

void OperatorCall::judgeMask(const Field<float>& where) {
    std::size_t outside = 0, noNumber = 0, chosen = 0;
    for (float w : where.values) {
        noNumber += std::isnan(w);
        outside += w < 0 || w > 1;
        chosen += w > 0;
    }
    const std::size_t count = where.values.size();
    if (noNumber > 0)
        tell(NoticeLevel::warning, "mask.not_a_number",
             fmt::format("Where is no number for {} of {} elements; they count as 0. Look at what it is computed from.", noNumber, count), "where");
    if (outside > 0)
        tell(NoticeLevel::info, "mask.outside",
             fmt::format("Where leaves 0–1 for {} of {} elements and is held there. Remap the mask to 0–1 where that is not meant.", outside, count), "where");
    if (count > 0 && chosen == 0) tell(NoticeLevel::info, "mask.nothing", "Where chooses nothing here, so this step changes nothing.", "where");
}

Field<float> OperatorCall::weights(const Geometry& geometry, Element element) {
    Field<float> where = each("where", geometry, element), blend = spec_.setting("blend") ? each("blend", geometry, element) : Field<float>{true, 1, {}};
    const auto product = [&](std::size_t i) {
        const float w = where[i] * blend[i];
        return w > 0 ? std::min(w, 1.0f) : 0.0f;  // NaN counts as 0
    };
    judgeMask(where);
    Field<float> out;
    out.uniform = where.uniform && blend.uniform;
    if (out.uniform) {
        out.value = product(0);
    } else {
        out.values.resize(geometry.count(element));
        for (std::size_t i = 0; i < out.values.size(); ++i) out.values[i] = product(i);
    }
    return out;
}

void OperatorCall::give(std::size_t output, Geometry geometry) {
    others_.resize(std::max(others_.size(), output));
    others_[output - 1] = std::move(geometry);
}

std::vector<Geometry> OperatorCall::takeOthers() {
    others_.resize(spec_.outputs.empty() ? 0 : spec_.outputs.size() - 1);
    return std::move(others_);
}

namespace {

/// Operators that people expect to change what they see; few of them know copies.
bool worksOnElements(const OperatorSpec& spec) {
    return (spec.family == Family::curve || spec.family == Family::surface || spec.family == Family::deform) && spec.id != "delete";
}

std::string countedCopies(const Geometry& in) { return in.copyCount() == 1 ? "1 copy" : fmt::format("{} copies", in.copyCount()); }

NoticeFix bakeBefore() { return insertFix("Put Bake copies before", "bake_copies"); }

/// Whoever sees copies doesn't know why an operator finds no faces.
bool onlyCopies(const OperatorSpec& spec, const Geometry& in) { return worksOnElements(spec) && in.copyCount() > 0 && in.faceCount() + in.curveCount() == 0; }

/// Nothing at all comes out of what is plugged in, and the error is about that: where a count or a density is 0, there is nothing to do behind it.
bool nothingCameIn(const OperatorInput& input, const Notice& error) {
    if (input.ports.empty() || input.ports.front().empty()) return false;
    const auto& given = input.ports.front();
    const std::string_view what = std::string_view(error.code).substr(error.code.find('.') + 1);
    const bool aboutThat =
        what == "none" || what == "nothing" || what == "no_copies" || what == "no_faces" || what == "no_curves" || what == "unknown_attribute";
    return aboutThat && error.code != "beads.none" && std::all_of(given.begin(), given.end(), [](const Geometry& g) { return g.empty(); });
}

constexpr double kUsualFrame = 1.0 / 24;  // s

}  // namespace

/// Frames one after the other with what is plugged in now: to the one that is kept, or that it is all around.
static Geometry straightThrough(const OperatorSpec& spec, OperatorCall& call, const OperatorInput& input) {
    const int held = spec.frameSetting.empty() ? -1 : call.integer(spec.frameSetting);
    const int last = held >= 0 ? held : int(std::clamp(input.frame, 0.0, 1e6));
    // Settings may read which frame it is.
    OperatorInput own = input;
    const double secondsPerFrame = input.frame > 0 ? input.time / input.frame : kUsualFrame;
    FrameState at;
    for (int frame = 0; frame <= last; ++frame) {
        call.run().poll();
        own.frame = frame, own.time = frame * secondsPerFrame;
        OperatorCall one(spec, own, call.run());
        at = frame == 0 ? spec.start(one) : spec.advance(one, at);
        if (frame == last) call.addNotices(one.takeNotices());
    }
    return spec.show ? spec.show(call, at) : at.geometry;
}

OperatorOutcome runOperator(const OperatorSpec& spec, const OperatorInput& input, const RunContext& run, const std::function<Geometry(OperatorCall&)>& make) {
    OperatorCall call(spec, input, run);
    OperatorOutcome out;
    const auto failed = [&](Notice notice) {
        if (notice.fixes.empty()) notice.fixes = usualFixes(spec, input, notice);
        out.geometry = call.in();
        out.notices = call.takeNotices();
        out.notices.push_back(std::move(notice));
        out.failed = true;
        return std::move(out);
    };
    try {
        for (std::size_t p = 0; p < spec.inputs.size(); ++p)
            if (!spec.inputs[p].optional && (p >= input.ports.size() || input.ports[p].empty())) {
                call.offer(missingInputFix(spec, input, p));
                call.fail("input.missing", fmt::format("Nothing is plugged into {}. Link a node to it.", spec.inputs[p].label));
            }
        out.geometry = make ? make(call) : spec.compute ? spec.compute(call) : straightThrough(spec, call, input);
        out.others = call.takeOthers();
        if (worksOnElements(spec) && call.in().copyCount() > 0 && out.geometry.sharedCopies() == call.in().sharedCopies()) {
            call.offer(bakeBefore());
            call.tell(NoticeLevel::info, "copies.untouched",
                      fmt::format("Left as they are: {}. Put Bake copies before this step to work on their faces.", countedCopies(call.in())));
        }
        out.notices = call.takeNotices();
        return out;
    } catch (OperatorFailure& failure) {
        if (failure.notice.code.ends_with(".none") && onlyCopies(spec, call.in())) {
            failure.notice.text += fmt::format(" What is here: {}. Put Bake copies before this step to work on their faces.", countedCopies(call.in()));
            failure.notice.fixes.push_back(bakeBefore());
        }
        if (nothingCameIn(input, failure.notice)) {
            out.geometry = call.in();
            out.others = call.takeOthers();
            out.notices = {{NoticeLevel::info, "input.empty", "Nothing comes in here, so nothing goes out.", {}, {}}};
            return out;
        }
        return failed(std::move(failure.notice));
    } catch (const LimitExceeded& limit) {
        return failed({NoticeLevel::error, "limit.elements", fmt::format("{}: {}.", spec.label, limit.what()), {}, {}});
    } catch (const std::bad_alloc&) {
        return failed({NoticeLevel::error, "limit.memory", fmt::format("{}: there is not enough memory for this. Use smaller numbers.", spec.label), {}, {}});
    } catch (const std::exception& error) {
        return failed({NoticeLevel::error,
                       "operator.internal",
                       fmt::format("{}: something went wrong inside ({}). Please report it.", spec.label, error.what()),
                       {},
                       {}});
    }
}

}  // namespace seedloom
