#pragma once
#include "graph/Loom.h"

#include <QtWidgets/QWidget>

#include <functional>

class QHBoxLayout;
class QVBoxLayout;

namespace seedloom::app {

class NumberField;
class Slider;

/// The fields by which a control's value is set: what fits its type and range.
class ControlRow : public QWidget {
    Q_OBJECT

public:
    /// `folder` is where paths start from.
    ControlRow(const Control& control, QString folder, QWidget* parent);
    /// Shows a value; one of another type is left out.
    void show(const Json& value);
    NumberField* field() const { return field_; }  ///< the first number's; null where there is none
    Slider* slider() const { return slider_; }

    using QWidget::show;

Q_SIGNALS:
    void edited(const Json& value, bool gesture);
    void dragStarted();
    void dragEnded();

private:
    void build();
    void buildNumbers(int components);
    void buildSlider();
    void buildBoolean();
    void buildChoice();
    void buildText();
    void buildFile();
    void buildColour();
    void buildRamp();
    template <class Widget> void follow(Widget* widget);
    void describe();

    Control control_;
    QString folder_;
    Json shown_;
    QVBoxLayout* column_;
    QHBoxLayout* line_;
    std::vector<std::function<void(const Json&)>> refreshers_;
    NumberField* field_ = nullptr;
    Slider* slider_ = nullptr;
};

}  // namespace seedloom::app
