#pragma once
#include "geometry/Statistics.h"

#include <QtWidgets/QWidget>

namespace seedloom::app {

/// What the numbers of the chosen column are like: count, least, mean, most, and how they are spread.
class StatisticsStrip : public QWidget {
    Q_OBJECT

public:
    explicit StatisticsStrip(QWidget* parent = nullptr);
    void show(const QString& name, const Statistics& statistics);
    void clear();
    const Statistics& statistics() const { return statistics_; }
    QSize sizeHint() const override;

protected:
    void paintEvent(QPaintEvent*) override;

private:
    QString name_;
    Statistics statistics_;
};

}  // namespace seedloom::app
