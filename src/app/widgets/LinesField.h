#pragma once
// The pen of a drawn curve: begins drawing on the stage, takes the last line back, clears all.
#include <QtWidgets/QWidget>

class QLabel;
class QToolButton;

namespace seedloom::app {

class LinesField : public QWidget {
    Q_OBJECT

public:
    explicit LinesField(QWidget* parent = nullptr);
    void setCount(std::size_t lines);
    bool drawing() const;
    void setDrawing(bool on);
    QToolButton* drawButton() const { return draw_; }

Q_SIGNALS:
    void drawingChanged();
    void takeBackWanted();
    void clearWanted();

private:
    QToolButton *draw_, *back_, *clear_;
    QLabel* count_;
};

}  // namespace seedloom::app
