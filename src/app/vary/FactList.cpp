#include "app/vary/FactList.h"

#include "app/look/Texts.h"
#include "app/look/Theme.h"
#include "app/widgets/FieldParts.h"

#include <QtWidgets/QGridLayout>

#include <cmath>

namespace seedloom::app {

namespace {

QString inMetres(double value) { return shownNumber(value, 'g', 4) + QStringLiteral(" m"); }

QString cubic(double value) { return shownNumber(value, 'g', 3) + QStringLiteral(" m³"); }

/// "+0.37", "−12": with the sign that people read.
QString signedText(double difference, int digits) {
    if (!(std::abs(difference) > 1e-9)) return FactList::tr("same");
    const QString size = digits == 0 ? countText(std::size_t(std::abs(difference))) : shownNumber(std::abs(difference), 'g', digits);
    return (difference > 0 ? QStringLiteral("+") : QStringLiteral("−")) + size;
}

}  // namespace

FactList::FactList(QWidget* parent) : QWidget(parent) {
    auto* grid = new QGridLayout(this);
    grid->setContentsMargins(0, 0, 0, 0);
    grid->setHorizontalSpacing(px(12));
    grid->setVerticalSpacing(px(2));
    grid->setColumnStretch(0, 1);
    for (const QString& name : {tr("Width"), tr("Height"), tr("Depth"), tr("Faces"), tr("Volume"), tr("Surface"), tr("Time")}) {
        const int row = int(lines_.size());
        Line line{name, new QLabel(this), new QLabel(this)};
        grid->addWidget(smallLabel(name, this), row, 0);
        for (QLabel* label : {line.value, line.difference}) {
            label->setFont(numberFont(12));
            label->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
        }
        line.difference->setMinimumWidth(px(86));
        grid->addWidget(line.value, row, 1);
        grid->addWidget(line.difference, row, 2);
        lines_.push_back(line);
    }
}

void FactList::put(std::size_t line, const QString& value, const QString& difference, bool differs) {
    lines_[line].value->setText(value);
    lines_[line].difference->setText(difference);
    lines_[line].difference->setStyleSheet(QStringLiteral("color: %1;").arg((differs ? colours().chosen : colours().faint).name()));
}

void FactList::show(const VaryRow* row, const VaryRow* beside) {
    if (!row || !row->ok) {
        for (std::size_t i = 0; i < lines_.size(); ++i) put(i, QStringLiteral("–"), {}, false);
        return;
    }
    const bool both = beside && beside->ok;
    const auto number = [&](std::size_t line, double now, double other, const QString& text, int digits) {
        put(line, text, both ? signedText(now - other, digits) : QString(), both && std::abs(now - other) > 1e-9);
    };
    for (std::size_t axis = 0; axis < 3; ++axis) number(axis, row->size[axis], both ? beside->size[axis] : 0, inMetres(row->size[axis]), 3);
    number(3, double(row->faces), both ? double(beside->faces) : 0, countText(row->faces), 0);
    if (row->closed) number(4, row->volume, both ? beside->volume : 0, cubic(row->volume), 3);
    else put(4, QStringLiteral("–"), {}, false);
    const auto surface = [](const VaryRow& of) { return of.closed ? tr("closed") : tr("open"); };
    put(5, surface(*row), both ? (row->closed == beside->closed ? tr("same") : surface(*beside)) : QString(), both && row->closed != beside->closed);
    put(6, tr("%1 ms").arg(countText(std::size_t(row->ms + 0.5))), {}, false);
}

QString FactList::value(const QString& name) const {
    for (const Line& line : lines_)
        if (line.name == name) return line.value->text();
    return {};
}

QString FactList::difference(const QString& name) const {
    for (const Line& line : lines_)
        if (line.name == name) return line.difference->text();
    return {};
}

}  // namespace seedloom::app
