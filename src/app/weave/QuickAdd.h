#pragma once
// A small window in which people type what they want to do, and take an operator.
#include "app/weave/QuickAddRanking.h"
#include "app/widgets/SearchPopup.h"

#include <functional>

namespace seedloom::app {

class Pictures;

class QuickAdd : public SearchPopup {
    Q_OBJECT

public:
    QuickAdd(Pictures& pictures, QWidget* weave);

    /// Opens beside `anchor` (in pixels of the weave), over whatever part of the window has room; `use` gets the operator that is taken.
    /// With `onlyFitting`, only what can follow; `typed` is already in the field.
    void open(QRect anchor, bool onlyFitting, std::optional<Flow> behind, std::function<void(const std::string&)> use, const QString& typed = {});

private:
    void fill() override;
    void take() override;
    void place();

    Pictures& pictures_;
    QRect anchor_;
    QuickAddContext context_;
    std::function<void(const std::string&)> use_;
};

}  // namespace seedloom::app
