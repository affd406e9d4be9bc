#pragma once
#include "app/settings/SettingRow.h"

#include <QtWidgets/QScrollArea>

class QLineEdit;
class QVBoxLayout;

namespace seedloom::app {

/// The settings of the chosen node.
class SettingsPanel : public QScrollArea {
    Q_OBJECT

public:
    SettingsPanel(Document& document, RebuildService& rebuilds, QWidget* parent = nullptr);
    /// Several nodes are edited together where they are of one kind; else the last one alone.
    void setNodes(const std::vector<std::string>& nodes);
    SettingRow* row(const std::string& setting) const;
    /// Puts the keyboard into the first field.
    void focusFirst();
    /// The same for one setting, which is scrolled into sight.
    void focusOn(const std::string& setting);
    /// The search over a long panel; nullptr where all settings are in sight anyway.
    QLineEdit* searchField() const { return search_; }

    /// The brush of the shown node; nullptr where nothing can be painted.
    StrokesField* strokes() const;
    /// What is told of the node as a whole; hidden ones are not in use.
    const std::vector<NoticeStrip*>& notices() const { return strips_; }
    /// The pen of the shown node, or nullptr.
    LinesField* lines() const;
    /// Pressed while a plane is drawn; nullptr where the node has none.
    QToolButton* planeButton() const;

Q_SIGNALS:
    void brushChanged();
    void lineChosen();
    /// A change that a notice of the shown node offers.
    void fixWanted(const NoticeFix& fix);
    void controlWanted(const QString& node, const Control& proposed, const QString& setting);
    /// A control was dropped beside all settings: it is not wanted any more.
    void controlDropped(const QString& control);

protected:
    void dragEnterEvent(QDragEnterEvent* event) override;
    void dropEvent(QDropEvent* event) override;

private:
    std::string shape() const;
    bool shown(const SettingSpec& spec) const;
    static void focusIn(SettingRow& row);
    void build();
    void refresh();
    void showNotices();
    void showFound();

    Document& document_;
    RebuildService& rebuilds_;
    std::vector<std::string> nodes_;
    std::string node_, built_;
    QString sought_;
    std::vector<SettingRow*> rows_;
    QVBoxLayout* notices_ = nullptr;
    std::vector<NoticeStrip*> strips_;
    QLabel* title_ = nullptr;
    QLineEdit* search_ = nullptr;
    std::vector<std::pair<QLabel*, std::vector<SettingRow*>>> sections_;
    Background background_;  ///< what sources give
};

}  // namespace seedloom::app
