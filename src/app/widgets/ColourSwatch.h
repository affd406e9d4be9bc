#pragma once
#include <QtGui/QColor>
#include <QtWidgets/QToolButton>

namespace seedloom::app {

/// A small field of colour; a click opens the dialog that changes it.
class ColourSwatch : public QToolButton {
    Q_OBJECT

public:
    explicit ColourSwatch(QWidget* parent = nullptr);
    void setColour(const QColor& colour);
    const QColor& colour() const { return colour_; }

Q_SIGNALS:
    void edited(const QColor& colour);

private:
    void choose();
    QColor colour_;
};

}  // namespace seedloom::app
