#pragma once
// The row of buttons over the stage: how it is shaded, what is drawn over it.
#include "app/stage/GlCanvas.h"

#include <QtWidgets/QWidget>

class QAction;
class QComboBox;
class QLabel;
class QMenu;
class QToolButton;

namespace seedloom::app {

class Slider;

/// How shadings are called in documents and commands, in the order of the enumeration.
inline constexpr std::array<const char*, 6> kShadingIds{"clay", "attribute", "checker", "sides", "difference", "look"};

class StageTools : public QWidget {
    Q_OBJECT

public:
    explicit StageTools(QWidget* parent);

    SceneLook look() const;
    DrawOptions options() const;
    bool numbers() const;
    /// Whether the height stands beside the model.
    bool height() const;
    /// Whether it did last time.
    static bool heightWanted();
    void setAttribute(const QString& name);
    void setShading(Shading shading);
    void setWire(bool on);
    /// Presses the button or menu entry with that id: wire, points, normals, xray, open_edges, numbers.
    void setOverlay(const QString& id, bool on);
    bool overlay(const QString& id) const;
    /// Takes over all that another row of tools had set.
    void takeFrom(const SceneLook& look, const QStringList& overlays);
    /// Ids of the overlays that are on.
    QStringList overlaysOn() const;
    void setArrows(const QString& attribute, double length);
    /// What the shown geometry has to offer.
    void offer(const QStringList& attributes, const QStringList& vectors);
    /// Whether it is in pieces.
    void offerApart(bool pieces);
    Slider* apart() const { return apart_; }
    /// As wide as the stage; the second group goes below the first where both do not fit.
    void layOut(int width);
    QToolButton* compareButton() const { return compare_; }
    QToolButton* more() const { return more_; }

Q_SIGNALS:
    void lookChanged();
    void optionsChanged();
    void compareWanted(bool on);
    void overlayChanged(const QString& id, bool on);

private:
    QToolButton* overlayButton(const QString& id) const;
    QAction* overlayAction(const QString& id) const;
    QToolButton* add(QWidget* group, const QString& text, const QString& tip);
    void fillMore();
    void addApart();

    QWidget *shadings_, *overlays_;
    std::array<QToolButton*, 6> shading_{};  ///< by what they choose
    QToolButton *wire_, *points_, *normals_, *xray_, *more_, *compare_;
    QComboBox *attribute_, *arrows_;
    QAction *openEdges_, *numbers_, *height_;
    Slider *length_, *apart_;
    QWidget* apartRow_;
};

}  // namespace seedloom::app
