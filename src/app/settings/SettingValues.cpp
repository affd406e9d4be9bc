// What comes into a setting's node: the attributes it can read, and the values that its source gives there.
#include "app/settings/SettingRow.h"
#include "app/settings/SourcePreview.h"
#include "app/widgets/RampEditor.h"
#include "fields/SourceChange.h"
#include "geometry/ElementTransfer.h"
#include "geometry/Statistics.h"

#include <QtWidgets/QVBoxLayout>

namespace seedloom::app {

namespace {

constexpr std::size_t kRampBars = 32, kPreviewBars = 40;

}  // namespace

QStringList SettingRow::attributeNames() const {
    QStringList out;
    for (const Link& link : document_.shown().links)
        if (link.to == node_)
            if (const auto outcome = rebuilds_.outcome(link.from))
                for (const std::string& name : seedloom::attributeNames(outcome->output(outputOf(document_.shown(), link))))
                    out << QString::fromStdString(name);
    if (const auto words = rebuilds_.report(node_).words)
        for (const auto& [name, value] : *words) out << QString::fromStdString(name);
    out.removeDuplicates();
    return out;
}

/// What flows into the node first.
std::optional<Geometry> SettingRow::incoming() const {
    for (const Link& link : document_.shown().links) {
        if (link.to != node_) continue;
        const auto outcome = rebuilds_.outcome(link.from);
        return outcome ? std::optional(outcome->output(outputOf(document_.shown(), link))) : std::nullopt;
    }
    return {};
}

/// The operator may work on another kind of element than the setting's usual one.
Element SettingRow::elementNow() const {
    const Node* node = document_.shown().node(node_);
    const auto it = node->settings.find("element");
    if (it == node->settings.end() || !it->is_string()) return spec_.element;
    bool known = true;
    const Element written = elementFromName(it->get<std::string>(), known);
    return known ? written : spec_.element;
}

std::optional<SourceValues> SettingRow::sourceValues() const {
    auto geometry = incoming();
    if (!geometry) return {};
    return SourceValues{std::move(*geometry), elementNow(), rebuilds_.controls(), rebuilds_.time(), rebuilds_.frame(), rebuilds_.report(node_).words};
}

/// The newest question of a kind is answered, older ones that still wait are dropped.
void SettingRow::ask(Newest& newest, std::function<Background::Then()> work) {
    const int mine = ++*newest;
    background_.start([newest, mine, work = std::move(work), row = QPointer<SettingRow>(this)]() -> Background::Then {
        if (*newest != mine) return {};
        return [newest, mine, row, then = work()] {
            if (row && *newest == mine && then) then();
        };
    });
}

void SettingRow::askNumbers(const std::string& over, const Json& range, std::function<void(const Json& numbers)> then) {
    const Json plain = Json::array({0.0, 1.0});
    auto values = sourceValues();
    const auto spans = valueRange(range);
    if (!values || over.empty() || !spans || spans->fixed) return then(plain);
    ask(rangeAsked_, [over, spans = *spans, plain, then = std::move(then), values = std::move(*values)]() -> Background::Then {
        Json found = plain;
        try {
            const Numbers numbers = values.values(FormulaSource{over});
            // Four digits, as people write numbers.
            const auto written = [](double v) { return QString::number(v, 'g', 4).toDouble(); };
            if (!numbers.uniform)
                if (const auto [low, high] = spans.over(numbers.columns[0]); low < high) found = Json::array({written(low), written(high)});
        } catch (const FieldError&) {
            // What is wrong with it is told by the node.
        }
        return [then, found] { then(found); };
    });
}

std::string SettingRow::attributeOfRange() const {
    const Node* node = document_.shown().node(node_);
    const auto spec = node ? document_.specOf(*node) : nullptr;
    for (const char* id : {"attribute", "from"}) {
        const SettingSpec* setting = spec ? spec->setting(id) : nullptr;
        if (!setting || setting->type != SettingType::text) continue;
        const auto it = node->settings.find(id);
        const Json& name = it == node->settings.end() ? setting->fallback : *it;
        return name.is_string() ? name.get<std::string>() : std::string();
    }
    return {};
}

void SettingRow::addPreview() {
    preview_ = new SourcePreview(this);
    body_->addWidget(preview_);
    refreshers_.push_back([this](const Json& v) { refreshPreview(v); });
}

void SettingRow::refreshPreview(const Json& v) {
    const auto source = sourceFromJson(v);
    if (!source) return preview_->showReason(tr("This source can't be read."));
    auto values = sourceValues();
    if (!values) return preview_->showReason(tr("Nothing has come in yet."));
    ask(previewAsked_, [preview = preview_, source = *source, values = std::move(*values)]() -> Background::Then {
        try {
            return [preview, found = values.statistics(source, kPreviewBars)] { preview->show(found); };
        } catch (const FieldError& error) {
            return [preview, reason = QString::fromUtf8(error.what())] { preview->showReason(reason); };
        }
    });
}

void SettingRow::refreshHistogram(RampEditor* editor, const std::string& over) {
    auto values = sourceValues();
    if (!values) return editor->setHistogram({});
    ask(histogramAsked_, [editor, over, values = std::move(*values)]() -> Background::Then {
        std::vector<float> heights;
        try {
            const Statistics found = values.statistics(FormulaSource{over}, kRampBars);
            if (found.most > found.least) {
                const auto most = float(*std::max_element(found.bars.begin(), found.bars.end()));
                for (std::size_t bar : found.bars) heights.push_back(float(bar) / most);
            }
        } catch (const FieldError&) {
            // The preview below the ramp tells why.
        }
        return [editor, heights = std::move(heights)] { editor->setHistogram(heights); };
    });
}

namespace {

/// One number or a few of a setting, as a source.
Source valueSource(const Json& value, const Json& fallback) {
    if (const auto source = sourceFromJson(value)) return *source;
    return FixedSource{fallback};
}

void fillRange(const Numbers& numbers, SourceSurroundings& around) {
    around.components = numbers.components;
    for (int c = 0; c < numbers.components; ++c) {
        const auto at = std::size_t(c);
        around.least[at] = around.mean[at] = around.most[at] = numbers.value[at];
        if (numbers.uniform || numbers.columns[at].empty()) continue;
        const Statistics found = statisticsOf(Column(numbers.columns[at]), 0, 1);
        around.least[at] = found.least, around.mean[at] = found.mean, around.most[at] = found.most;
    }
}

/// The present value where nothing has come in, or what is there cannot be worked out.
/// A small number that is the setting's own.
double seedFor(const std::string& setting) {
    constexpr unsigned kSeeds = 97;
    unsigned sum = 0;
    for (unsigned char c : setting) sum = sum * 31 + c;
    return double(sum % kSeeds + 1);
}

void fillFallback(const Source& from, const Json& fallback, SourceSurroundings& around) {
    const auto* fixed = std::get_if<FixedSource>(&from);
    Numbers numbers;
    if ((fixed && numbersOf(fixed->value, numbers)) || numbersOf(fallback, numbers)) fillRange(numbers, around);
}

}  // namespace

void SettingRow::useSource(const std::string& kind) {
    const Json before = value();
    if (!spec_.numeric()) return put(kind == "control" ? Json{{"control", document_.visibleControls().front().id}} : fixedWord());
    SourceSurroundings around;
    around.fallback = spec_.fallback;
    around.seed = seedFor(spec_.id);
    for (const QString& name : attributeNames()) around.attributes.push_back(name.toStdString());
    for (const Control& control : document_.visibleControls()) around.controls.push_back(control.id);
    auto values = sourceValues().value_or(SourceValues{});
    values.controls = rebuilds_.controls();
    if (!spec_.perElement) values.geometry = Geometry(std::vector<Vec3>(1));
    ask(changeAsked_, [this, kind, before, fallback = spec_.fallback, around, values = std::move(values)]() mutable -> Background::Then {
        const Source from = valueSource(before, fallback);
        try {
            fillRange(values.values(from), around);
        } catch (const FieldError&) {
            fillFallback(from, fallback, around);
        }
        around.rangeOf = [&values](const std::string& over) { return values.range(over); };
        return [this, before, made = changedSource(from, kind, around)] {
            if (value() == before) put(made);
        };
    });
}

/// What a control that chose a word or a text says now.
Json SettingRow::fixedWord() const {
    const Json now = value();
    if (!now.is_object() || !now.contains("control")) return spec_.fallback;
    const auto it = rebuilds_.controls().find(now["control"].get<std::string>());
    return it == rebuilds_.controls().end() ? spec_.fallback : it->second;
}

}  // namespace seedloom::app
