#pragma once
#include "app/workplaces/Workplace.h"

#include <QtWidgets/QWidget>

#include <map>
#include <memory>
#include <vector>

class QToolButton;

namespace seedloom::app {

/// The workplaces at the left edge, help and settings at its foot.
class Rail : public QWidget {
    Q_OBJECT

public:
    explicit Rail(const std::vector<std::unique_ptr<Workplace>>& workplaces, QWidget* parent = nullptr);
    void setCurrent(const QString& id);
    void setLibraryShown(bool shown);

Q_SIGNALS:
    void workplaceWanted(const QString& id);
    void libraryWanted();
    void helpWanted();
    void settingsWanted();

protected:
    void paintEvent(QPaintEvent*) override;

private:
    void fitWords();
    QToolButton* add(const QString& iconName, const QString& text, const QString& tip);
    std::map<QString, QToolButton*> places_;
    QToolButton* library_;
};

}  // namespace seedloom::app
