#pragma once
#include "app/session/Document.h"

#include <QtWidgets/QScrollArea>

#include <functional>

class QComboBox;
class QLabel;

namespace seedloom::app {

class ControlForm;
class Slider;
class NumberField;

/// The loom's controls, always in sight.
class ControlsPanel : public QScrollArea {
    Q_OBJECT

public:
    explicit ControlsPanel(Document& document, QWidget* parent = nullptr);
    Slider* slider(const std::string& control) const;
    NumberField* field(const std::string& control) const;
    /// Asks for name, section, range and unit of a control to be made from a setting, or of one that is there.
    void askForNew(const std::string& node, const std::string& setting, const Control& proposed);
    void askForChange(const std::string& control);
    ControlForm* form() const { return form_; }
    /// Asks for a name and keeps the values in use under it.
    void askForPreset();
    /// Pixel (of this panel) at which a control's name can be taken.
    QPoint namePixel(const std::string& control) const;
    /// How high the panel would like to be to show everything.
    int wantedHeight() const;

Q_SIGNALS:
    /// A setting was dropped here: its row knows what control it would make.
    void settingDropped(const QString& node, const QString& setting);
    /// There is more to show than before.
    void roomWanted();

protected:
    void dragEnterEvent(QDragEnterEvent* event) override;
    void dropEvent(QDropEvent* event) override;

private:
    std::string shape() const;
    void build();
    void refresh();
    void ask(const Control& control, const QString& button, std::function<void(const Control&)> take);
    void endForm();
    void openMenu(const std::string& control, QPoint global);
    QWidget* makeRow(const Control& control, QWidget* page);
    Json value(const Control& control) const;
    void put(const std::string& control, const Json& value, bool gesture);

    Document& document_;
    std::string built_;
    std::size_t shown_ = 0;  ///< controls
    int gesture_ = 0;
    std::vector<std::function<void()>> refreshers_;
    std::map<std::string, Slider*> sliders_;
    std::map<std::string, NumberField*> fields_;
    std::map<std::string, QWidget*> names_;
    QComboBox* presets_ = nullptr;
    ControlForm* form_ = nullptr;
};

}  // namespace seedloom::app
