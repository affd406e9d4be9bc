#pragma once
// Facts about the soundness of what a node gives: what was found, where it is, and what would help.
#include "app/session/Background.h"
#include "breaking/PieceCheckup.h"
#include "geometry/Checkup.h"
#include "geometry/WallThickness.h"
#include "graph/Memo.h"

#include <QtWidgets/QScrollArea>

namespace seedloom::app {

/// All that the drawer shows of a geometry.
struct CheckupReport {
    Checkup facts;
    std::vector<Finding> findings;
    std::optional<WallThickness> wall;
    bool intersectionsChecked = false;
    Vec3 size{};
    std::size_t copies = 0;
    std::optional<PieceFigures> pieces;
};

class CheckupDrawer : public QScrollArea {
    Q_OBJECT

public:
    /// Self-intersections are only looked for up to this many faces, unless asked for.
    static constexpr std::size_t kMostFacesUnasked = 60000;

    explicit CheckupDrawer(QWidget* parent = nullptr);
    ~CheckupDrawer() override;

    void show(const QString& nodeName, std::shared_ptr<const NodeOutcome> outcome);
    const CheckupReport& report() const { return report_; }
    bool busy() const { return busy_; }
    /// What helps against a finding, the likeliest first.
    static std::vector<NoticeFix> fixesFor(const std::string& code, const CheckupReport& report = {});
    /// A volume, or an area of open pieces, in a unit that suits it.
    static QString sizeText(double size, bool closed);
    static QString textFor(const Finding& finding);

Q_SIGNALS:
    void showWanted(const Finding& finding);
    void fixWanted(const NoticeFix& fix);
    /// A word for the drawer's button: sound, or how many findings.
    void verdictChanged(const QString& verdict, bool sound);

protected:
    void resizeEvent(QResizeEvent* event) override;

private:
    void start(bool all);
    void fill();

    QString name_;
    std::shared_ptr<const NodeOutcome> outcome_;
    CheckupReport report_;
    bool busy_ = false, narrow_ = false;
    int generation_ = 0;
    Background background_;  ///< last: it stops before what it writes to goes
};

}  // namespace seedloom::app
