#pragma once
#include "geometry/Statistics.h"

#include <QtWidgets/QWidget>

namespace seedloom::app {

/// What a source gives on the geometry that comes in: how its values are spread, the least, the mean and the most.
class SourcePreview : public QWidget {
    Q_OBJECT

public:
    explicit SourcePreview(QWidget* parent = nullptr);
    /// Nothing known: the place stays, with the reason.
    void show(const Statistics& statistics);
    void showReason(const QString& reason);
    const Statistics& statistics() const { return statistics_; }
    QSize sizeHint() const override;

protected:
    void paintEvent(QPaintEvent*) override;

private:
    Statistics statistics_;
    QString reason_;
};

}  // namespace seedloom::app
