#pragma once
// The brush of a painted setting: what it does, how large and strong it is, and the strokes so far.
#include "app/session/Brush.h"
#include "fields/Source.h"

#include <QtWidgets/QWidget>

#include <optional>

class QLabel;
class QToolButton;

namespace seedloom::app {

class EntryList;
class NumberField;
class Slider;

class StrokesField : public QWidget {
    Q_OBJECT

public:
    /// `modes`: what the brush can do.
    explicit StrokesField(const std::vector<std::string>& modes, QWidget* parent = nullptr);
    /// The setting's value.
    void setStrokes(const Json& strokes);
    /// The chosen stroke, as the setting counts.
    std::optional<std::size_t> chosen() const;
    bool painting() const;
    void setPainting(bool on);
    const Brush& brush() const { return brush_; }
    void setRadius(double metres);
    QToolButton* paintButton() const { return paint_; }
    EntryList* list() const { return list_; }

Q_SIGNALS:
    /// Painting begins, ends, or its brush changes.
    void brushChanged();
    void strokeChosen();
    void edited(const Json& strokes);

protected:
    void keyPressEvent(QKeyEvent* event) override;

private:
    void addPart(const QString& label, const QString& unit, double low, double high, double Brush::*part);
    void addHead(bool shapes);
    void addModes(const std::vector<std::string>& modes);
    void addMirrors();
    void keep() const;

    Brush brush_;
    QToolButton *paint_, *remove_, *clear_;
    QLabel* count_;
    EntryList* list_;
    NumberField* radius_ = nullptr;
    Slider* radiusSlider_ = nullptr;
};

}  // namespace seedloom::app
