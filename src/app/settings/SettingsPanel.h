#pragma once
#include "app/settings/SettingRow.h"

#include <QtWidgets/QScrollArea>

namespace seedloom::app {

/// The settings of the chosen node.
class SettingsPanel : public QScrollArea {
    Q_OBJECT

public:
    SettingsPanel(Document& document, RebuildService& rebuilds, QWidget* parent = nullptr);
    void setNode(const std::string& node);
    SettingRow* row(const std::string& setting) const;
    /// Puts the keyboard into the first field.
    void focusFirst();

private:
    std::string shape() const;
    bool shown(const SettingSpec& spec) const;
    void build();
    void refresh();
    void showNotices();

    Document& document_;
    RebuildService& rebuilds_;
    std::string node_, built_;
    std::vector<SettingRow*> rows_;
    QLabel* notice_ = nullptr;
    QLabel* title_ = nullptr;
};

}  // namespace seedloom::app
