#pragma once
#include "app/data/GeometryModel.h"
#include "app/session/Background.h"

#include <QtWidgets/QWidget>

class QLabel;
class QLineEdit;
class QTableView;
class QButtonGroup;
class QToolButton;

namespace seedloom::app {

class StatisticsStrip;

/// The table of a node's attribute values, by element kind: sorted, filtered, chosen, copied, and held against what the stage shows.
class DataDrawer : public QWidget {
    Q_OBJECT

public:
    explicit DataDrawer(QWidget* parent = nullptr);
    ~DataDrawer() override;

    /// What is on offer; taken where the drawer follows the chosen node, or when it is its pinned one. Frozen values stay.
    void show(const QString& nodeName, const std::string& node, std::shared_ptr<const NodeOutcome> outcome);
    /// The node that the drawer is pinned to; empty: it follows.
    const std::string& pinnedTo() const { return pinned_; }
    void setElement(Element element);
    /// Chooses the row of an element, as picked on the stage.
    void chooseRow(Element element, Index row, bool extend);
    void sortBy(int column, bool descending);
    void setFilter(const QString& formula);
    void copy();
    /// True while rows are being sorted or filtered.
    bool busy() const { return busy_; }

    QTableView* table() const { return table_; }
    GeometryModel* model() const { return model_; }
    StatisticsStrip* strip() const { return strip_; }
    QLineEdit* filterField() const { return filter_; }
    QToolButton* freezeButton() const { return freeze_; }
    QToolButton* pinButton() const { return pin_; }
    QToolButton* kindButton() const { return kind_; }

Q_SIGNALS:
    /// The rows that the user has chosen, as elements.
    void rowsChosen(Element element, const std::vector<Index>& rows);
    void columnChosen(const QString& attribute);
    /// All faces of the chosen one's kind are to be marked.
    void kindWanted();
    /// Pinned or following again: the window shows the right node.
    void pinChanged();

private:
    void refresh();
    void leaveEmptyKind();
    void arrange();
    void takeArranged(int generation, ChosenRows rows);
    void selectionChanged();
    void showStatistics(int column);
    void openColumnMenu();

    GeometryModel* model_;
    QTableView* table_;
    QLabel *title_, *empty_, *problem_;
    QButtonGroup* kinds_;
    QLineEdit* filter_;
    QToolButton *columns_, *freeze_, *pin_, *kind_;
    StatisticsStrip* strip_;
    std::shared_ptr<const NodeOutcome> outcome_, waiting_;
    QString waitingName_;
    std::string node_, pinned_;
    Element element_ = Element::point;
    RowChoice choice_;
    int generation_ = 0, statisticsColumn_ = 0, statisticsWish_ = 0;
    bool busy_ = false;
    Background background_;  ///< last: it stops before what it writes to goes
};

}  // namespace seedloom::app
