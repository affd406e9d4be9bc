#pragma once
// A small window in which people type part of a name and take one of what is offered: commands, nodes.
#include "app/widgets/SearchPopup.h"

#include <functional>

namespace seedloom::app {

class Finder : public SearchPopup {
    Q_OBJECT

public:
    struct Entry {
        QString title;
        QString detail;  ///< said behind it, and found as well
        QString hidden;  ///< found, not shown
        QString keys;    ///< shortcut, at the right
        std::function<void()> use;
    };

    explicit Finder(QWidget* owner);

    /// Opens over the window with its upper middle at `at` (in the window's pixels).
    void open(const QString& prompt, std::vector<Entry> entries, QPoint at);

private:
    void fill() override;
    void take() override;

    std::vector<Entry> entries_;
    QPoint at_;
};

}  // namespace seedloom::app
