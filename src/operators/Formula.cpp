#include "fields/FormulaText.h"
#include "fields/GeometryScope.h"
#include "operators/AllOperators.h"
#include "parallel/Loops.h"

#include <fmt/format.h>

namespace seedloom {

namespace {

SettingSpec dialSetting(const FormulaDial& dial) {
    SettingSpec spec = dial.isSwitch ? flagSetting(dial.name, dial.name, dial.fallback != 0) : numberSetting(dial.name, dial.name, Unit::none, dial.fallback);
    if (dial.range) spec.slider((*dial.range)[0], (*dial.range)[1]);
    return spec.helped("A dial of the formula.");
}

std::vector<SettingSpec> ownSettings(const Json& written) {
    std::vector<SettingSpec> out;
    const auto it = written.find("text");
    const auto text = parseFormulaText(it != written.end() && it->is_string() ? it->get_ref<const std::string&>() : std::string());
    if (!text) return out;
    for (const FormulaDial& dial : (*text)->dials) out.push_back(dialSetting(dial));
    for (const std::string& ramp : (*text)->ramps) out.push_back(rampSetting(ramp, ramp).helped("A ramp of the formula, over 0–1."));
    return out;
}

FormulaSurroundings surroundingsOf(const OperatorCall& call, const FormulaText& text) {
    FormulaSurroundings out;
    static const OperatorSpec plain = formulaOperator();
    const auto free = [&](const std::string& name) {
        if (plain.setting(name)) call.fail("formula.assign", fmt::format("Formula: '{}' is a setting of every formula already. Give the dial or ramp another name.", name), "text");
    };
    for (const FormulaDial& dial : text.dials) free(dial.name), out.dials[dial.name] = call.number(dial.name);
    for (const std::string& ramp : text.ramps) free(ramp), out.ramps.emplace(ramp, call.ramp(ramp));
    for (std::size_t i = 0; i < 3; ++i) out.inputs.push_back(call.port(i).empty() ? nullptr : &call.port(i).front());
    return out;
}

/// Takes one output of the program block by block.
class Writer {
public:
    virtual ~Writer() = default;
    virtual void take(std::size_t begin, std::size_t n, const float* const* from) = 0;
    virtual void take(std::size_t begin, std::size_t n, const double* const* from) = 0;
    virtual Column column() = 0;
    /// The first row that is not finite, where numbers can be so.
    virtual std::optional<std::size_t> firstNonFinite() const { return {}; }
};

template <class T> class ColumnWriter : public Writer {
public:
    ColumnWriter(std::size_t count, const std::vector<T>* before, const Field<float>& weights) : out_(count), before_(before), weights_(weights) {}
    void take(std::size_t begin, std::size_t n, const float* const* from) override { write(begin, n, from); }
    void take(std::size_t begin, std::size_t n, const double* const* from) override { write(begin, n, from); }
    Column column() override { return Column(std::move(out_)); }
    std::optional<std::size_t> firstNonFinite() const override {
        if constexpr (!std::is_integral_v<T>)
            for (std::size_t i = 0; i < out_.size(); ++i)
                for (int c = 0; c < kComponents; ++c)
                    if (!std::isfinite(part(out_[i], c))) return i;
        return {};
    }

private:
    static constexpr int kComponents = std::is_arithmetic_v<T> ? 1 : int(sizeof(T) / sizeof(float));
    static auto part(const T& value, int c) {
        if constexpr (std::is_arithmetic_v<T>)
            return value;
        else
            return (&value.x)[c];
    }
    template <class Number> static T made(const Number* const* from, std::size_t i) {
        if constexpr (std::is_same_v<T, std::uint8_t>) {
            return from[0][i] != 0;
        } else if constexpr (std::is_same_v<T, std::int32_t>) {
            return std::int32_t(std::clamp(std::isfinite(double(from[0][i])) ? double(from[0][i]) : 0.0, -2147483648.0, 2147483647.0));
        } else if constexpr (std::is_same_v<T, float>) {
            return float(from[0][i]);
        } else {
            T out{};
            for (int c = 0; c < kComponents; ++c) (&out.x)[c] = float(from[c][i]);
            return out;
        }
    }
    template <class Number> void write(std::size_t begin, std::size_t n, const Number* const* from) {
        if (weights_.uniform && weights_.value == 1) {
            for (std::size_t i = 0; i < n; ++i) out_[begin + i] = made(from, i);
            return;
        }
        for (std::size_t i = 0; i < n; ++i) {
            const float w = weights_[begin + i];
            const T fresh = made(from, i), kept = before_ ? (*before_)[begin + i] : T{};
            if constexpr (std::is_integral_v<T>)
                out_[begin + i] = w > 0.5f ? fresh : kept;
            else
                out_[begin + i] = w == 1 ? fresh : w == 0 ? kept : kept * (1 - w) + fresh * w;
        }
    }

    std::vector<T> out_;
    const std::vector<T>* before_;
    const Field<float>& weights_;
};

class TextWriter : public Writer {
public:
    TextWriter(std::size_t count, const std::vector<std::string>* before, const Field<float>& weights, const std::vector<std::string>& texts)
        : out_(count), before_(before), weights_(weights), texts_(texts) {}
    void take(std::size_t begin, std::size_t n, const float* const* from) override { write(begin, n, from); }
    void take(std::size_t begin, std::size_t n, const double* const* from) override { write(begin, n, from); }
    Column column() override { return Column(std::move(out_)); }

private:
    template <class Number> void write(std::size_t begin, std::size_t n, const Number* const* from) {
        for (std::size_t i = begin; i < begin + n; ++i)
            out_[i] = weights_[i] > 0.5f ? texts_[std::size_t(from[0][i - begin])] : before_ ? (*before_)[i] : std::string();
    }
    std::vector<std::string> out_;
    const std::vector<std::string>* before_;
    const Field<float>& weights_;
    const std::vector<std::string>& texts_;
};

struct Target {
    const Geometry& in;
    Element element;
    const Field<float>& weights;
    const std::vector<std::string>& texts;

    template <class T> std::unique_ptr<Writer> make(const std::string& name) const {
        return std::make_unique<ColumnWriter<T>>(in.count(element), in.values<T>(element, name), weights);
    }
    std::unique_ptr<Writer> writerFor(const FormulaProgram::Output& out) const {
        if (out.kind == FormulaKind::text) return std::make_unique<TextWriter>(in.count(element), in.values<std::string>(element, out.name), weights, texts);
        switch (out.components()) {
            case 2: return make<Vec2>(out.name);
            case 3: return make<Vec3>(out.name);
            case 4: return make<Vec4>(out.name);
            default: break;
        }
        return out.kind == FormulaKind::integer ? make<std::int32_t>(out.name) : out.kind == FormulaKind::boolean ? make<std::uint8_t>(out.name) : make<float>(out.name);
    }
};

void runProgram(const FormulaProgram& program, std::size_t count, const RunContext& run, std::vector<std::unique_ptr<Writer>>& writers) {
    const auto take = [&](std::size_t output, std::size_t begin, std::size_t n, const auto* const* from) { writers[output]->take(begin, n, from); };
    forChunks(count, run, [&](std::size_t, Range range) {
        if (program.wide())
            program.evaluateAll<double>(range.begin, range.end - range.begin, take);
        else
            program.evaluateAll<float>(range.begin, range.end - range.begin, take);
    });
}

/// A position that is no number would spoil all that follows: an error at its place. Elsewhere it is a notice.
void judge(OperatorCall& call, const FormulaProgram& program, const std::vector<std::unique_ptr<Writer>>& writers) {
    for (std::size_t o = 0; o < writers.size(); ++o) {
        const auto row = writers[o]->firstNonFinite();
        if (!row) continue;
        const FormulaProgram::Output& out = program.outputs()[o];
        const FormulaPlace place = program.placeOfNonFinite(*row).value_or(out.place);
        const std::string text = fmt::format("Formula, line {}, column {}: '{}' becomes no finite number at element {}. Guard what is divided by or rooted, as in x / max(y, 0.001).",
                                             place.line, place.column, out.name, *row);
        if (out.name == "position") call.fail(Error{"formula.not_finite", text, place.line, place.column}, "text");
        call.tell(NoticeLevel::warning, "formula.not_finite", text, "text");
    }
}

Geometry compute(OperatorCall& call) {
    const Geometry& in = call.in();
    const auto text = parseFormulaText(call.text("text"));
    if (!text) call.fail(text.error(), "text");
    bool known = true;
    const Element element = elementFromName(call.choice("element"), known);
    const FieldContext context = call.fieldsOf(in, element);
    GeometryScope scope(context, surroundingsOf(call, **text));
    const auto program = bindFormulaText(**text, scope);
    if (!program) call.fail(program.error(), "text");
    for (const auto& [name, from] : scope.converted())
        call.tell(NoticeLevel::info, "attribute.converted",
                  fmt::format("'{}' is on each {}, and is averaged for each {}.", name, elementName(from), elementName(element)), "text");
    const Field<float> weights = call.weights(in, element);
    const Target target{in, element, weights, scope.texts()};
    std::vector<std::unique_ptr<Writer>> writers;
    for (const FormulaProgram::Output& out : program->outputs()) {
        if (out.name == "position" && (element != Element::point || out.components() != 3))
            call.fail("attribute.position", "position belongs to points and is a vec3. Choose Point as the element, or another name.", "element");
        writers.push_back(target.writerFor(out));
    }
    runProgram(*program, in.count(element), call.run(), writers);
    judge(call, *program, writers);
    Geometry out = in;
    for (std::size_t o = 0; o < writers.size(); ++o) out.setColumn(element, program->outputs()[o].name, writers[o]->column());
    return out;
}

}  // namespace

OperatorSpec formulaOperator() {
    OperatorSpec spec;
    spec.id = "formula";
    spec.label = "Formula";
    spec.family = Family::attribute;
    spec.sentence = "Writes attributes by statements that run for every element.";
    spec.help = "Statements end with a semicolon: `let x = …;` keeps a value, `mask = …;` makes or changes an attribute, `position.y += …;` one component of it, and "
                "`dial strength = 0.5 in 0..2;` declares a setting of this node. Attributes are read by their bare names, controls as `ctl.height`, beside `time`, `frame`, "
                "`index`, `count`. Operators and functions are those of GLSL; `/` always divides exactly. `noise(p)` is in −1…1, `random(id, seed)` in 0…1, "
                "`ramp(\"edge\", x)` runs a drawn ramp, `stat(\"curvature\", \"max\")` is a number of all elements. The inputs are A, B and C: `nearest(B, position)` gives the number of "
                "a point, `at(B, n, \"tangent\")` reads an attribute there, `surface(B, position)` is the nearest place on it.";
    spec.synonyms = {"expression", "code", "script", "calculate", "math", "compute", "equation", "program"};
    spec.inputs = {{"in", "A"}, {"b", "B", false, true}, {"c", "C", false, true}};
    spec.settings = {
        formulaSetting("text", "Formula", "mask = smoothstep(0.0, 1.0, position.y);").helped("Statements that run for every element."),
        choiceSetting("element", "Element", {"point", "corner", "face", "curve", "copy", "model"}, "point").helped("For which elements it runs."),
        whereSetting(Element::point),
        blendSetting(Element::point),
    };
    spec.ownSettings = ownSettings;
    spec.compute = compute;
    return spec;
}

}  // namespace seedloom
