#pragma once
#include "app/library/LibraryModel.h"

#include <QtWidgets/QWidget>

class QComboBox;
class QLineEdit;
class QListView;
class QMenu;
class QPushButton;
class QToolButton;

namespace seedloom::app {

/// Shelves of assets at the left of the window: looked through, and put into what is worked on by a drag, a double click or Enter.
class LibraryDrawer : public QWidget {
    Q_OBJECT

public:
    explicit LibraryDrawer(Library& library, QWidget* parent = nullptr);
    QLineEdit* search() const { return search_; }
    QComboBox* tag() const { return tag_; }
    QComboBox* version() const { return version_; }
    QListView* list() const { return list_; }
    QPushButton* placeButton() const { return place_; }
    LibraryModel& model() { return model_; }
    /// The chosen asset in the chosen version; null where there is none.
    const ShelfAsset* chosen() const;
    /// Chooses the asset of that name; false where it is not shown.
    bool choose(const QString& name);
    /// What can be done with the chosen asset, or shelf; empty where nothing can.
    QMenu* makeMenu();

Q_SIGNALS:
    void placeWanted(const QString& file);
    void openWanted(const QString& file);
    /// A loom is to be made of a pack, to work on.
    void unpackWanted(const QString& file);
    /// What the document uses in an older version is to become this one.
    void updateWanted(const QString& file);
    void shelfWanted();
    void closeWanted();

protected:
    void showEvent(QShowEvent* event) override;

private:
    QWidget* makeHead();
    QWidget* makeFoot();
    void filter();
    void showChosen();
    void fillTags();
    void activate(const QModelIndex& index);

    Library& library_;
    LibraryModel model_;
    QLineEdit* search_;
    QComboBox *tag_, *version_;
    QListView* list_;
    QPushButton* place_;
    QToolButton* more_;
    QString kept_;  ///< the name of what was chosen before the rows were made anew
};

}  // namespace seedloom::app
