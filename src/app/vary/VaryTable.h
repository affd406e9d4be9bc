#pragma once
// Variations as a table: in rows as wide as there is room, or one control over the columns and another over the rows.
#include "app/session/PictureFiles.h"
#include "app/session/VarySheet.h"

#include <QtCore/QAbstractTableModel>
#include <QtCore/QHash>

namespace seedloom::app {

class VaryTable : public QAbstractTableModel {
    Q_OBJECT

public:
    /// Which are shown, and where.
    struct Arrangement {
        std::string columns, rows;  ///< controls that stand over columns and rows; empty: none
        std::string order;          ///< a word of factsOf(); empty: the plan's order
        bool largestFirst = false;
        std::string condition;                 ///< see rowMeets(); empty: all
        bool starred = false, failed = false;  ///< only these
        bool operator==(const Arrangement&) const = default;
        /// Whether a control has a place of its own at the edge.
        bool grid() const { return order.empty() && !(columns.empty() && rows.empty()); }
    };

    VaryTable(VarySheet& sheet, QObject* parent);
    const Arrangement& arrangement() const { return arrangement_; }
    void arrange(Arrangement arrangement);
    /// How many stand beside each other where no control stands over the columns.
    void setAcross(int across);
    /// What keeps the condition from being read; empty where nothing does.
    const QString& problem() const { return problem_; }
    std::size_t shownCount() const { return shown_; }

    int rowCount(const QModelIndex& parent = {}) const override;
    int columnCount(const QModelIndex& parent = {}) const override;
    QVariant data(const QModelIndex& index, int role) const override;
    QVariant headerData(int section, Qt::Orientation orientation, int role) const override;
    Qt::ItemFlags flags(const QModelIndex& index) const override;

    /// Of the sheet; nothing where a place is empty.
    std::optional<std::size_t> item(const QModelIndex& index) const;
    QModelIndex indexOf(std::size_t item) const;
    VarySheet& sheet() const { return sheet_; }
    /// Values that differ and stand in no heading.
    QString caption(std::size_t item) const;
    /// The same with all that differs, and what is told of it.
    QString title(const Variation& variation) const;
    QString facts(std::size_t item) const;
    /// As large as fills so many pixels; null while it is not known.
    QPixmap picture(std::size_t item, QSize pixels) const;
    PictureFiles& pictures() { return pictures_; }

Q_SIGNALS:
    /// Rows and columns are others.
    void arranged();

private:
    void lay();
    std::vector<std::size_t> chosen();
    void judgeSome();
    void layInRows(const std::vector<std::size_t>& items);
    void layInGrid(const std::vector<std::size_t>& items);
    Json valueOf(std::size_t item, const std::string& control) const;
    void itemChanged(std::size_t item);

    VarySheet& sheet_;
    mutable PictureFiles pictures_;
    mutable QHash<QString, std::size_t> wishedFor_;  ///< items by the files of their pictures
    Arrangement arrangement_;
    QString problem_;
    std::vector<std::optional<bool>> meets_;  ///< by item: whether the condition holds, as far as that was looked at
    int across_ = 4, columns_ = 0, rows_ = 0;
    std::size_t shown_ = 0;
    std::vector<std::optional<std::size_t>> places_;  ///< items, by row and column
    std::vector<int> placeOf_;                        ///< by item; −1: not shown
    QStringList columnTexts_, rowTexts_;
    std::vector<const Control*> differing_;
    ControlValues plain_;  ///< of the loom as it is in use
    QTimer again_;         ///< rows come faster than anybody reads an order
};

}  // namespace seedloom::app
