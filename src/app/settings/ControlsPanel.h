#pragma once
#include "app/session/Document.h"
#include "graph/ControlReadings.h"
#include "graph/LoomNotices.h"

#include <QtWidgets/QWidget>

#include <functional>

class QLabel;
class QScrollArea;
class QToolButton;
class QVBoxLayout;

namespace seedloom::app {

class ControlForm;
class ControlRow;
class DragName;
class PresetBar;
class Slider;
class NumberField;

/// The loom's controls, always in sight: set, made, changed and ordered here; or seen as whoever uses the loom sees them.
class ControlsPanel : public QWidget {
    Q_OBJECT

public:
    explicit ControlsPanel(Document& document, QWidget* parent = nullptr);
    Slider* slider(const std::string& control) const;
    NumberField* field(const std::string& control) const;
    /// The line of a control, with its name; null where it is not shown.
    QWidget* line(const std::string& control) const;
    DragName* name(const std::string& control) const;
    /// Asks for everything about a control to be made from a setting, or of one that is there.
    void askForNew(const std::string& node, const std::string& setting, const Control& proposed);
    void askForChange(const std::string& control);
    ControlForm* form() const { return form_; }
    PresetBar* presets() const { return presets_; }
    /// Leaves away what those who use the loom don't see: hidden controls, and all that changes controls instead of setting them.
    void setAsUsed(bool on);
    bool asUsed() const;
    /// Pixel (of this panel) at which a control's name can be taken.
    QPoint namePixel(const std::string& control) const;
    /// How high the panel would like to be to show everything.
    int wantedHeight() const;

Q_SIGNALS:
    /// A setting was dropped here: its row knows what control it would make.
    void settingDropped(const QString& node, const QString& setting);
    /// A place that a control drives is to be shown.
    void placeWanted(const ControlReading& reading);
    /// There is more to show than before.
    void roomWanted();

protected:
    void dragEnterEvent(QDragEnterEvent* event) override;
    void dragMoveEvent(QDragMoveEvent* event) override;
    void dragLeaveEvent(QDragLeaveEvent* event) override;
    void dropEvent(QDropEvent* event) override;

private:
    std::string shape() const;
    void build();
    void refresh();
    void refreshNames(const ControlValues& values);
    void ask(const Control& control, const std::string& id, const QString& button, std::function<void(const Control&)> take);
    void endForm();
    void openMenu(const std::string& control, QPoint global);
    void addRow(const Control& control, QWidget* page, QVBoxLayout* column);
    QString helpOf(const Control& control, const ControlValues& values) const;
    ControlValues values() const;
    /// What is wrong with a control; null where nothing is.
    const LoomNotice* noticeOf(const std::string& control) const;
    void put(const std::string& control, const Json& value, bool gesture);
    /// The place in the order that a drop at `y` (of this panel) means.
    std::size_t placeAt(int y) const;

    struct Line {
        QWidget* widget;
        DragName* name;
        ControlRow* row;
    };
    Document& document_;
    std::string built_;
    std::size_t shown_ = 0;  ///< controls
    int gesture_ = 0;
    std::map<std::string, Line> lines_;
    std::vector<LoomNotice> notices_;
    PresetBar* presets_;
    QToolButton* asUsed_;
    QScrollArea* area_;
    QWidget* mark_;  ///< where a dragged control would go
    QLabel* problem_;
    ControlForm* form_ = nullptr;
};

}  // namespace seedloom::app
