#pragma once
// The variations of a document that somebody looks at: which they are, what is known of each, and their making behind the interface.
#include "app/session/Background.h"
#include "app/session/Document.h"
#include "app/session/PlannedVariations.h"
#include "vary/VaryBuilds.h"
#include "vary/VaryCache.h"

#include <QtCore/QElapsedTimer>
#include <QtCore/QTimer>

namespace seedloom::app {

class VarySheet : public QObject {
    Q_OBJECT

public:
    static constexpr int kPictureWide = 208, kPictureHigh = 156;

    explicit VarySheet(Document& document, QObject* parent = nullptr);
    /// Cancels, and waits for what runs.
    ~VarySheet() override;

    const VaryPlan& plan() const { return plan_; }
    /// Plans anew, and makes what is not there; what is the same stays. Many are planned behind the interface: until planned() comes the old ones stand.
    void setPlan(VaryPlan plan);
    /// The document as it is now; nothing happens where it gives the same variations as before.
    void refresh();
    /// Why there are no variations; empty where there are, or where nothing is to vary.
    QString problem() const { return QString::fromStdString(planned_->problem); }

    /// Variations of the plan, in its order; behind them the loom as it is in use, then those that are starred and not of the plan.
    std::size_t count() const { return planned_->all.size(); }
    std::size_t inUse() const { return count(); }
    std::size_t all() const { return items_.size(); }
    const Variation& variation(std::size_t i) const { return at(i).variation; }
    std::optional<std::size_t> find(const Variation& variation) const;
    /// Null where it is not made yet, or was made of an earlier state of the document.
    const VaryRow* row(std::size_t i) const { return items_[i].row.get(); }
    std::vector<const VaryRow*> rows() const;
    bool working(std::size_t i) const { return items_[i].working; }
    /// The file of its picture; that of an earlier state while a newer one is made.
    QString pictureFile(std::size_t i) const { return items_[i].picture; }
    /// What is varied: the document that the rows are of, with its inputs as controls.
    const Loom& loom() const { return *varied_; }
    /// What builds it.
    FitSubject subject() const;

    const std::vector<Variation>& stars() const { return stars_; }
    bool starred(const Variation& variation) const;
    void setStarred(const Variation& variation, bool starred);
    void setStars(std::vector<Variation> stars);

    /// What is in view, most wanted first: that is made first.
    void lookAt(const std::vector<std::size_t>& seen);
    /// The side from which pictures are taken, degrees.
    void setDirection(double yaw, double pitch);
    double yaw() const { return yaw_; }
    double pitch() const { return pitch_; }

    /// Nothing more is begun, and what runs ends soon; what is done stays.
    void stop();
    void goOn();
    /// Makes nothing until refresh(): nobody looks.
    void rest();
    bool stopped() const { return stopped_; }
    bool running() const { return !stopped_ && !resting_ && (left_ > 0 || planning_); }
    std::size_t doneCount() const;
    std::size_t failedCount() const;
    /// Nothing where that is not known yet.
    std::optional<double> remainingMs() const;

    /// Where pictures and rows are kept between sessions.
    static QString cacheFolder();

Q_SIGNALS:
    /// Other variations, or another order: all numbers may mean others now.
    void planned();
    void itemChanged(std::size_t i);
    /// At most once per turn of the event loop.
    void progressed();
    void starsChanged();

private:
    struct Item {
        std::shared_ptr<const VaryRow> row;
        QString picture;
        bool working = false, finished = false;
    };
    struct Making;
    struct Told {
        const Making* making;
        int plan;
        std::size_t item;
        std::shared_ptr<const VaryRow> row;  ///< null: it was begun
    };

    const PlannedVariation& at(std::size_t i) const { return i < count() ? planned_->all[i] : (*behind_)[i - count()]; }
    void planNow();
    /// Puts others in the place of those that stand; what is known of equal ones stays.
    void take(std::shared_ptr<const PlannedVariations> next);
    void begin();
    void run(const std::shared_ptr<Making>& making);
    void makeOne(Making& making, std::size_t item, int plan);
    void takeTold();

    Document& document_;
    VaryPlan plan_;
    std::shared_ptr<const PlannedVariations> planned_ = std::make_shared<const PlannedVariations>();
    std::shared_ptr<const std::vector<PlannedVariation>> behind_;  ///< in use, and starred ones that are not of the plan
    std::vector<Item> items_;                                      ///< of both
    std::size_t left_ = 0;
    bool planning_ = false;
    int planNumber_ = 0;
    std::vector<Variation> stars_;
    std::shared_ptr<const Loom> seen_;  ///< the document
    std::shared_ptr<const Loom> varied_ = std::make_shared<const Loom>();
    std::string folder_;
    Assets assets_;
    double yaw_ = 30, pitch_ = 18;
    bool stopped_ = false, resting_ = true;
    QElapsedTimer since_;
    std::size_t madeSince_ = 0;
    std::vector<std::size_t> inView_;
    std::shared_ptr<Making> making_;
    std::mutex mutex_;
    std::vector<Told> told_;
    Doorbell bell_;
    Background plans_, background_;  ///< last: they wait for what uses the others
};

}  // namespace seedloom::app
