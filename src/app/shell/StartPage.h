#pragma once
// What there is to begin with: an empty loom, a file, what was open lately, and the demos.
#include <QtWidgets/QWidget>

class QLabel;
class QPushButton;

namespace seedloom::app {

class Gallery;

class StartPage : public QWidget {
    Q_OBJECT

public:
    explicit StartPage(QWidget* parent);
    /// Reads anew what was open lately.
    void refresh();
    QPushButton* emptyButton() const { return empty_; }
    QPushButton* openButton() const { return open_; }
    Gallery* recent() const { return recent_; }
    Gallery* demos() const { return demos_; }

Q_SIGNALS:
    void emptyWanted();
    void openWanted();
    void fileWanted(const QString& file);
    void demoWanted(const QString& id);
    /// Back to the loom that is open.
    void left();

protected:
    void keyPressEvent(QKeyEvent* event) override;

private:
    void addDemos();
    QLabel* heading(const QString& text);

    QPushButton *empty_, *open_;
    QLabel* recentHeading_;
    Gallery *recent_, *demos_;
};

}  // namespace seedloom::app
