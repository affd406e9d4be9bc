#include "app/widgets/LinesField.h"

#include "app/look/Texts.h"
#include "app/widgets/EntryList.h"
#include "fields/Evaluate.h"
#include "operators/DrawnLine.h"

#include <QtWidgets/QHBoxLayout>
#include <QtWidgets/QLabel>
#include <QtWidgets/QToolButton>

namespace seedloom::app {

namespace {

std::optional<Vec3> placeOf(const Json& point) {
    Numbers n;
    if (!numbersOf(point, n) || n.components != 3) return {};
    return Vec3{float(n.value[0]), float(n.value[1]), float(n.value[2])};
}

/// Metres along the points; what is no point is passed over.
double lengthOf(const Json& points) {
    double out = 0;
    std::optional<Vec3> last;
    for (const Json& point : points)
        if (const auto at = placeOf(point)) {
            if (last) out += double(distance(*last, *at));
            last = at;
        }
    return out;
}

QString nameOfLine(std::size_t number, const Json& line) {
    return LinesField::tr("Line %1  ·  %2 m").arg(number).arg(shownNumber(lengthOf(pointsOfLine(line)), 'f', 2));
}

QToolButton* button(const QString& text, const QString& tip, QWidget* parent) {
    auto* out = new QToolButton(parent);
    out->setText(text);
    out->setToolTip(tip);
    return out;
}

}  // namespace

LinesField::LinesField(QWidget* parent)
    : QWidget(parent), draw_(button(tr("Draw"), tr("Drag on the stage to draw a line; Escape ends it"), this)),
      remove_(button(tr("Remove"), tr("Removes the chosen line; the last one where none is chosen"), this)),
      clear_(button(tr("Clear"), tr("Removes all lines"), this)), count_(new QLabel(this)), list_(new EntryList(nameOfLine, lineShown, this)) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(4);
    auto* row = new QHBoxLayout;
    draw_->setCheckable(true);
    count_->setProperty("role", "faint");
    for (QWidget* widget : {draw_, remove_, clear_}) row->addWidget(widget);
    row->addStretch();
    row->addWidget(count_);
    column->addLayout(row);
    list_->setAccessibleName(tr("Drawn lines"));
    list_->setToolTip(tr("Choose a line to see it on the stage and to drag its points. A line without its tick is kept, but left out of the model."));
    column->addWidget(list_);
    connect(draw_, &QToolButton::toggled, this, &LinesField::drawingChanged);
    connect(remove_, &QToolButton::clicked, list_, &EntryList::removeChosen);
    connect(clear_, &QToolButton::clicked, this, [this] { Q_EMIT edited(Json()); });
    connect(list_, &EntryList::entryChosen, this, &LinesField::lineChosen);
    connect(list_, &EntryList::edited, this, &LinesField::edited);
    showCount();
}

const Json& LinesField::lines() const { return list_->entries(); }

void LinesField::setLines(const Json& lines) {
    const auto line = chosen(), curve = chosenCurve();
    list_->setEntries(lines);
    showCount();
    if (chosen() != line || chosenCurve() != curve) Q_EMIT lineChosen();
}

void LinesField::showCount() {
    const int count = list_->count(), hidden = list_->hiddenCount();
    count_->setText(hidden > 0 ? tr("%n line(s), %1 left out", nullptr, count).arg(hidden) : tr("%n line(s)", nullptr, count));
    remove_->setEnabled(count > 0);
    clear_->setEnabled(count > 0);
}

std::optional<std::size_t> LinesField::chosen() const { return list_->chosen(); }

std::optional<std::size_t> LinesField::chosenCurve() const {
    const auto line = chosen();
    if (!line || lineHidden(lines()[*line])) return {};
    std::size_t out = 0;
    for (std::size_t i = 0; i < *line; ++i) out += !lineHidden(lines()[i]) && !pointsOfLine(lines()[i]).empty();
    return out;
}

bool LinesField::drawing() const { return draw_->isChecked(); }

void LinesField::setDrawing(bool on) { draw_->setChecked(on); }

}  // namespace seedloom::app
