#pragma once
// Where a scale begins and ends: with all values, with the middle ones, or at two numbers.
#include "fields/ValueRange.h"

#include <QtWidgets/QComboBox>

namespace seedloom::app {

class RangeBox : public QComboBox {
    Q_OBJECT

public:
    explicit RangeBox(QWidget* parent = nullptr) : QComboBox(parent) {
        setAccessibleName(tr("Range"));
        setToolTip(
            tr("Where the ends stand: at the least and the largest value, at those of the middle ones, so that a few far out do not make all others "
               "alike, or at two numbers"));
        addItem(tr("all values"), QStringLiteral("auto"));
        addItem(tr("middle 96 %"), QStringLiteral("auto 2 %"));
        addItem(tr("two numbers"));
        connect(this, &QComboBox::activated, this, [this] {
            const QString word = currentData().toString();
            if (word.isEmpty()) Q_EMIT numbersWanted();
            else Q_EMIT picked(Json(word.toStdString()));
        });
    }
    /// As it is written; another share than 2 % is an entry of its own.
    void setRange(const Json& written) {
        const auto range = valueRange(written);
        if (!range || range->fixed) return setCurrentIndex(2);
        const QString word = QString::fromStdString(rangeJson(*range).get<std::string>());
        if (findData(word) < 0) insertItem(count(), tr("middle %1 %").arg(100 - 200 * range->leftOut), word);
        setCurrentIndex(findData(word));
    }

Q_SIGNALS:
    void picked(const Json& range);
    /// Two numbers are chosen; which ones to begin with is for the row to say.
    void numbersWanted();
};

}  // namespace seedloom::app
