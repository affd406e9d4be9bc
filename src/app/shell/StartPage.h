#pragma once
// What there is to begin with: an empty loom, a file, what was left unsaved, what was open lately, and the demos.
#include "app/shell/LeftWork.h"

#include <QtWidgets/QWidget>

class QLabel;
class QPushButton;
class QVBoxLayout;

namespace seedloom::app {

class Gallery;

class StartPage : public QWidget {
    Q_OBJECT

public:
    explicit StartPage(QWidget* parent);
    /// Reads anew what was open lately.
    void refresh();
    /// Documents that can be brought back, a row each; nothing is shown where there are none.
    void showLeft(const std::vector<LeftWork>& left);
    QWidget* leftWork() const { return left_; }
    QPushButton* emptyButton() const { return empty_; }
    QPushButton* openButton() const { return open_; }
    Gallery* recent() const { return recent_; }
    Gallery* demos() const { return demos_; }

Q_SIGNALS:
    void emptyWanted();
    void openWanted();
    void fileWanted(const QString& file);
    void demoWanted(const QString& id);
    void bringBackWanted(const LeftWork& left);
    void throwAwayWanted(const LeftWork& left);
    /// Back to the loom that is open.
    void left();

protected:
    void keyPressEvent(QKeyEvent* event) override;

private:
    void addDemos();
    QLabel* heading(const QString& text);

    QWidget* leftRow(const LeftWork& left);

    QPushButton *empty_, *open_;
    QWidget* left_;  ///< the heading of what can be brought back, and its rows
    QVBoxLayout* leftRows_;
    QLabel* recentHeading_;
    Gallery *recent_, *demos_;
};

}  // namespace seedloom::app
