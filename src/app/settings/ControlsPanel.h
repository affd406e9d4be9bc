#pragma once
#include "app/shell/Document.h"

#include <QtWidgets/QScrollArea>

#include <functional>

class QComboBox;
class QLabel;

namespace seedloom::app {

class Slider;
class NumberField;

/// The loom's controls, always in sight.
class ControlsPanel : public QScrollArea {
    Q_OBJECT

public:
    explicit ControlsPanel(Document& document, QWidget* parent = nullptr);
    Slider* slider(const std::string& control) const;
    NumberField* field(const std::string& control) const;
    /// How high the panel would like to be to show everything.
    int wantedHeight() const;

protected:
    bool eventFilter(QObject* watched, QEvent* event) override;

private:
    std::string shape() const;
    void build();
    void refresh();
    QWidget* makeRow(const Control& control, QWidget* page);
    Json value(const Control& control) const;
    void put(const std::string& control, const Json& value, bool gesture);

    Document& document_;
    std::string built_;
    int gesture_ = 0;
    std::vector<std::function<void()>> refreshers_;
    std::map<std::string, Slider*> sliders_;
    std::map<std::string, NumberField*> fields_;
    QComboBox* presets_ = nullptr;
};

}  // namespace seedloom::app
