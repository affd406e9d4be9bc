#pragma once
// Another version of an asset that the document uses: what changes in its controls and in the model, before it is taken.
#include "app/session/Background.h"
#include "app/session/Session.h"
#include "app/stage/Stage.h"
#include "formats/Shelf.h"
#include "graph/AssetUpdate.h"

#include <QtWidgets/QDialog>

class QLabel;
class QListWidget;
class QPushButton;

namespace seedloom::app {

class UpdateWindow : public QDialog {
    Q_OBJECT

public:
    /// `uses` are the nodes that are to stand for `newer`; all of the same asset.
    UpdateWindow(Session& session, std::vector<AssetUse> uses, ShelfAsset newer, QWidget* parent);
    ~UpdateWindow() override;
    Stage* stage() const { return stage_; }
    QListWidget* list() const { return list_; }
    QPushButton* takeButton() const { return take_; }
    QPushButton* cancelButton() const { return cancel_; }
    /// Says what is another in the model, once it is built.
    QString facts() const;
    bool building() const { return building_; }

Q_SIGNALS:
    void updated(int nodes);

private:
    void read();
    void listChanges(const Loom& before, const Loom& after, const std::vector<LostValue>& lost);
    void build();
    void showModels(std::shared_ptr<const NodeOutcome> before, std::shared_ptr<const NodeOutcome> after);
    void takeIt();

    Session& session_;
    std::vector<AssetUse> uses_;
    ShelfAsset newer_;
    Edit edit_;
    std::shared_ptr<const Loom> seen_;  ///< the document that the edit is of
    Selection selection_;
    Stage* stage_;
    Stage::Subject left_;  ///< the older model
    QListWidget* list_;
    QLabel* facts_;
    QPushButton *take_, *cancel_;
    bool building_ = false;
    std::shared_ptr<std::atomic<bool>> stop_ = std::make_shared<std::atomic<bool>>(false);
    Background background_;  ///< last: it waits for what uses the others
};

}  // namespace seedloom::app
