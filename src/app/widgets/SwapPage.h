#pragma once
#include <QtWidgets/QScrollArea>

namespace seedloom::app {

/// Puts a new page into a scroll area. The old one may be where the signal came from, so it goes when control has returned.
inline void swapPage(QScrollArea* area, QWidget* page) {
    if (QWidget* old = area->takeWidget()) {
        old->hide();
        old->deleteLater();
    }
    area->setWidget(page);
    page->show();
}

}  // namespace seedloom::app
