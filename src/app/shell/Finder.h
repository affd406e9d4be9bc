#pragma once
// A small window in which people type part of a name and take one of what is offered: commands, nodes.
#include <QtWidgets/QFrame>

#include <functional>

class QLineEdit;
class QListWidget;

namespace seedloom::app {

class Finder : public QFrame {
    Q_OBJECT

public:
    struct Entry {
        QString title;
        QString detail;   ///< said behind it, and found as well
        QString hidden;   ///< found, not shown
        QString keys;     ///< shortcut, at the right
        std::function<void()> use;
    };

    explicit Finder(QWidget* parent);

    /// Opens over the window with its upper middle at `at` (in the window's pixels).
    void open(const QString& prompt, std::vector<Entry> entries, QPoint at);
    QLineEdit* field() const { return field_; }
    QListWidget* list() const { return list_; }

protected:
    bool eventFilter(QObject* watched, QEvent* event) override;

private:
    void fill();
    void take();
    void close();

    QLineEdit* field_;
    QListWidget* list_;
    QWidget* owner_;
    std::vector<Entry> entries_;
};

/// Moves through a list with the arrow keys while another widget has the keyboard; true where the key was one of them.
bool walkList(QListWidget* list, int key);

}  // namespace seedloom::app
