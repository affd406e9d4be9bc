// What comes into a setting's node: the attributes it can read, and the values that its source gives there.
#include "app/settings/SettingRow.h"
#include "app/settings/SourcePreview.h"
#include "fields/Evaluate.h"
#include "geometry/ElementTransfer.h"
#include "geometry/Statistics.h"

#include <QtWidgets/QVBoxLayout>

namespace seedloom::app {

namespace {

constexpr std::size_t kMostRows = 20000;  // The interface thread must not stall on a large model.
constexpr std::size_t kRampBars = 32, kPreviewBars = 40;

}  // namespace

QStringList SettingRow::attributeNames() const {
    QStringList out;
    for (const Link& link : document_.loom().links)
        if (link.to == node_)
            if (const auto outcome = rebuilds_.outcome(link.from))
                for (const std::string& name : seedloom::attributeNames(outcome->output(outputOf(document_.loom(), link)))) out << QString::fromStdString(name);
    out.removeDuplicates();
    return out;
}

/// What flows into the node first.
std::optional<Geometry> SettingRow::incoming() const {
    for (const Link& link : document_.loom().links) {
        if (link.to != node_) continue;
        const auto outcome = rebuilds_.outcome(link.from);
        return outcome ? std::optional(outcome->output(outputOf(document_.loom(), link))) : std::nullopt;
    }
    return {};
}

/// The operator may work on another kind of element than the setting's usual one.
Element SettingRow::elementNow() const {
    const Node* node = document_.loom().node(node_);
    const auto it = node->settings.find("element");
    if (it == node->settings.end() || !it->is_string()) return spec_.element;
    bool known = true;
    const Element written = elementFromName(it->get<std::string>(), known);
    return known ? written : spec_.element;
}

/// How the values of a source are spread over a geometry, with the controls and the time of the newest rebuild. Throws FieldError.
Statistics SettingRow::valuesOf(const Source& source, const Geometry& geometry, std::size_t bars) const {
    FieldContext context;
    context.geometry = &geometry;
    context.element = elementNow();
    context.perElement = true;
    context.controls = &rebuilds_.controls();
    context.time = rebuilds_.time();
    context.frame = rebuilds_.frame();
    Numbers numbers = evaluate(source, context);
    std::vector<float>& values = numbers.columns[0];
    if (numbers.uniform) values.assign(std::max<std::size_t>(1, geometry.count(context.element)), float(numbers.value[0]));
    return statisticsOf(Column(std::move(values)), 0, bars);
}

void SettingRow::addPreview() {
    preview_ = new SourcePreview(this);
    body_->addWidget(preview_);
    refreshers_.push_back([this](const Json& v) { refreshPreview(v); });
}

void SettingRow::refreshPreview(const Json& v) {
    const auto source = sourceFromJson(v);
    if (!source) return preview_->showReason(tr("This source can't be read."));
    const auto geometry = incoming();
    if (!geometry) return preview_->showReason(tr("Nothing has come in yet."));
    if (geometry->count(elementNow()) > kMostRows) return preview_->showReason(tr("Too many elements for a live preview; see Data."));
    try {
        preview_->show(valuesOf(*source, *geometry, kPreviewBars));
    } catch (const FieldError& error) {
        preview_->showReason(QString::fromUtf8(error.what()));
    }
}

std::vector<float> SettingRow::histogramOf(const std::string& over) const {
    const auto geometry = incoming();
    if (!geometry || geometry->count(elementNow()) > kMostRows) return {};
    try {
        const Statistics found = valuesOf(FormulaSource{over}, *geometry, kRampBars);
        if (!(found.most > found.least)) return {};
        const auto most = float(*std::max_element(found.bars.begin(), found.bars.end()));
        std::vector<float> out;
        for (std::size_t bar : found.bars) out.push_back(float(bar) / most);
        return out;
    } catch (const FieldError&) {
        return {};
    }
}

}  // namespace seedloom::app
