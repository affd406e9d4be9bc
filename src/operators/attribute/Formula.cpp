// Method: own: a small language, compiled to instructions that run over blocks of elements (fields/FormulaText).
#include "fields/FormulaText.h"
#include "fields/GeometryScope.h"
#include "operators/AttributeWork.h"
#include "operators/Catalogue.h"
#include "operators/OperatorCall.h"
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
    const auto free = [&](const std::string& name) {
        if (findOperator("formula")->setting(name))
            call.fail("formula.assign", fmt::format("Formula: '{}' is a setting of every formula already. Give the dial or ramp another name.", name), "text");
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
};

template <class T> class ColumnWriter : public Writer {
public:
    explicit ColumnWriter(std::size_t count) : out_(count) {}
    void take(std::size_t begin, std::size_t n, const float* const* from) override { write(begin, n, from); }
    void take(std::size_t begin, std::size_t n, const double* const* from) override { write(begin, n, from); }
    Column column() override { return Column(std::move(out_)); }

private:
    template <class Number> void write(std::size_t begin, std::size_t n, const Number* const* from) {
        for (std::size_t i = 0; i < n; ++i) out_[begin + i] = made(from, i);
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
            for (int c = 0; c < int(sizeof(T) / sizeof(float)); ++c) (&out.x)[c] = float(from[c][i]);
            return out;
        }
    }
    std::vector<T> out_;
};

class TextWriter : public Writer {
public:
    TextWriter(std::size_t count, const std::vector<std::string>& texts) : out_(count), texts_(texts) {}
    void take(std::size_t begin, std::size_t n, const float* const* from) override { write(begin, n, from); }
    void take(std::size_t begin, std::size_t n, const double* const* from) override { write(begin, n, from); }
    Column column() override { return Column(std::move(out_)); }

private:
    template <class Number> void write(std::size_t begin, std::size_t n, const Number* const* from) {
        for (std::size_t i = 0; i < n; ++i) out_[begin + i] = texts_[std::size_t(from[0][i])];
    }
    std::vector<std::string> out_;
    const std::vector<std::string>& texts_;
};

std::unique_ptr<Writer> writerFor(const FormulaProgram::Output& out, std::size_t count, const std::vector<std::string>& texts) {
    if (out.kind == FormulaKind::text) return std::make_unique<TextWriter>(count, texts);
    if (out.components() == 2) return std::make_unique<ColumnWriter<Vec2>>(count);
    if (out.components() == 3) return std::make_unique<ColumnWriter<Vec3>>(count);
    if (out.components() == 4) return std::make_unique<ColumnWriter<Vec4>>(count);
    if (out.kind == FormulaKind::integer) return std::make_unique<ColumnWriter<std::int32_t>>(count);
    if (out.kind == FormulaKind::boolean) return std::make_unique<ColumnWriter<std::uint8_t>>(count);
    return std::make_unique<ColumnWriter<float>>(count);
}

void runProgram(const FormulaProgram& program, std::size_t count, const RunContext& run, std::vector<std::unique_ptr<Writer>>& writers) {
    const auto take = [&](std::size_t output, std::size_t begin, std::size_t n, const auto* const* from) { writers[output]->take(begin, n, from); };
    forChunks(count, run, [&](std::size_t, Range range) {
        if (program.wide()) program.evaluateAll<double>(range.begin, range.end - range.begin, take);
        else program.evaluateAll<float>(range.begin, range.end - range.begin, take);
    });
}

bool finiteAt(const Column& column, std::size_t row) {
    for (int c = 0; c < componentCount(column.type()); ++c)
        if (!std::isfinite(column.component(row, c))) return false;
    return true;
}

/// The first row that the formula itself made no finite number.
std::size_t firstSpoilt(const Column* before, const Column& now) {
    std::size_t row = firstNonFinite(now);
    while (before && row < now.size() && !finiteAt(*before, row)) row = firstNonFinite(now, row + 1);
    return row;
}

/// A position that is no number would spoil all that follows: an error at its place. Elsewhere it is a notice. What was no number before
/// is not the formula's doing.
void judge(OperatorCall& call, const FormulaProgram& program, const FormulaProgram::Output& out, const Column* before, const Column& now) {
    const std::size_t row = firstSpoilt(before, now);
    if (row == now.size()) return;
    const FormulaPlace place = program.placeOfNonFinite(row).value_or(out.place);
    const Error error{
        "formula.not_finite",
        fmt::format("Formula, line {}, column {}: '{}' becomes no finite number at element {}. Guard what is divided by or rooted, as in x / max(y, 0.001).",
                    place.line, place.column, out.name, row),
        place.line, place.column};
    if (out.name == "position") call.fail(error, "text");
    call.tell(NoticeLevel::warning, error, "text");
}

Geometry computeFormula(OperatorCall& call) {
    const Geometry& in = call.in();
    const auto text = parseFormulaText(call.text("text"));
    if (!text) call.fail(text.error(), "text");
    const Element element = elementOf(call, "element");
    const FieldContext context = call.fieldsOf(in, element);
    GeometryScope scope(context, surroundingsOf(call, **text));
    const auto program = bindFormulaText(**text, scope);
    if (!program) call.fail(program.error(), "text");
    for (const auto& [name, from] : scope.converted())
        call.tell(NoticeLevel::info, "attribute.converted",
                  fmt::format("'{}' is on each {}, and is averaged for each {}.", name, elementName(from), elementName(element)), "text");
    std::vector<std::unique_ptr<Writer>> writers;
    for (const FormulaProgram::Output& out : program->outputs()) {
        if (out.name == "position" && (element != Element::point || out.components() != 3))
            call.fail("attribute.position", "position belongs to points and is a vec3. Choose Point as the element, or another name.", "element");
        writers.push_back(writerFor(out, in.count(element), scope.texts()));
    }
    const Field<float> weights = call.weights(in, element);
    runProgram(*program, in.count(element), call.run(), writers);
    Geometry out = in;
    for (std::size_t o = 0; o < writers.size(); ++o) {
        const FormulaProgram::Output& output = program->outputs()[o];
        const Column fresh = blended(in, element, output.name, writers[o]->column(), weights);
        judge(call, *program, output, in.column(element, output.name), fresh);
        out.setColumn(element, output.name, fresh);
    }
    return out;
}

}  // namespace

OperatorSpec formulaOperator() {
    OperatorSpec spec;
    spec.id = "formula";
    spec.order = 660;
    spec.label = "Formula";
    spec.family = Family::attribute;
    spec.sentence = "Writes attributes by statements that run for every element.";
    spec.help =
        "Statements end with a semicolon: `let x = …;` keeps a value, `mask = …;` makes or changes an attribute, `position.y += …;` one component of it, and "
        "`dial strength = 0.5 in 0..2;` declares a setting of this node. Attributes are read by their bare names, controls as `ctl.height`, beside `time`, "
        "`frame`, "
        "`index`, `count`. Operators and functions are those of GLSL; `/` always divides exactly. `noise(p)` is in −1…1, `random(id, seed)` in 0…1, "
        "`ramp(\"edge\", x)` runs a drawn ramp, `stat(\"curvature\", \"max\")` is a number of all elements. The inputs are A, B and C: `nearest(B, position)` "
        "gives the number of "
        "a point, `at(B, n, \"tangent\")` reads an attribute there, `surface(B, position)` is the nearest place on it.";
    spec.synonyms = {"expression", "code", "script", "calculate", "math", "compute", "equation", "program"};
    spec.inputs = {{"in", "A"}, {"b", "B", false, true}, {"c", "C", false, true}};
    spec.settings = {
        formulaSetting("text", "Formula", "mask = smoothstep(0.0, 1.0, position.y);").helped("Statements that run for every element."),
        choiceSetting("element", "Element", kElementWords, "point").helped("For which elements it runs."),
        whereSetting(Element::point),
        blendSetting(Element::point),
    };
    spec.ownSettings = ownSettings;
    spec.compute = computeFormula;
    return spec;
}

}  // namespace seedloom
