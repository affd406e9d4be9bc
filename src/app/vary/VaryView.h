#pragma once
// The contact sheet: pictures of variations with what differs between them, a star each; what failed says why in its place.
#include "app/vary/VaryTable.h"

#include <QtWidgets/QTableView>

namespace seedloom::app {

class VaryView : public QTableView {
    Q_OBJECT

public:
    VaryView(VaryTable& table, QWidget* parent);
    /// Of the cell's star, in pixels of the viewport.
    QRect starOf(const QModelIndex& index) const;
    /// The variation that is chosen; nothing where none is.
    std::optional<std::size_t> chosen() const;
    void choose(std::size_t item);
    /// Cells are at least so wide.
    static int leastWide();

Q_SIGNALS:
    void chosenChanged();
    void starWanted(std::size_t item);
    /// Enter, or a double click.
    void useWanted(std::size_t item);

protected:
    void resizeEvent(QResizeEvent* event) override;
    void scrollContentsBy(int dx, int dy) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void paintEvent(QPaintEvent* event) override;
    void currentChanged(const QModelIndex& now, const QModelIndex& before) override;

private:
    void fitCells();
    void tellView();
    VaryTable& table_;
    std::optional<Variation> kept_;  ///< what was chosen last, wherever the table puts it
    bool laying_ = false;
};

}  // namespace seedloom::app
