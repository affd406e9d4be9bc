#pragma once
#include "vary/VaryRow.h"

#include <QtWidgets/QWidget>

class QGridLayout;
class QLabel;

namespace seedloom::app {

/// What a variation is like, beside what another one is.
class FactList : public QWidget {
    Q_OBJECT

public:
    explicit FactList(QWidget* parent);
    /// Null: not known yet.
    void show(const VaryRow* row, const VaryRow* beside);
    using QWidget::show;
    /// A value, or how it differs, by its line: "Faces".
    QString value(const QString& name) const;
    QString difference(const QString& name) const;

private:
    struct Line {
        QString name;
        QLabel *value, *difference;
    };
    void put(std::size_t line, const QString& value, const QString& difference, bool differs);
    std::vector<Line> lines_;
};

}  // namespace seedloom::app
