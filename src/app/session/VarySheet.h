#pragma once
// The variations of a document that somebody looks at: which they are, what is known of each, and their making behind the interface.
#include "app/session/Background.h"
#include "app/session/Document.h"
#include "vary/VaryBuilds.h"
#include "vary/VaryCache.h"
#include "vary/VaryPlan.h"

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
    /// Plans anew, and makes what is not there; what is the same stays.
    void setPlan(VaryPlan plan);
    /// The document as it is now; nothing happens where it gives the same variations as before.
    void refresh();
    /// Why there are no variations; empty where there are, or where nothing is to vary.
    const QString& problem() const { return problem_; }

    /// Variations of the plan, in its order; behind them the loom as it is in use, then those that are starred and not of the plan.
    std::size_t count() const { return count_; }
    std::size_t inUse() const { return count_; }
    std::size_t all() const { return items_.size(); }
    const Variation& variation(std::size_t i) const { return items_[i].variation; }
    std::optional<std::size_t> find(const Variation& variation) const;
    /// Null where it is not made yet, or was made of an earlier state of the document.
    const VaryRow* row(std::size_t i) const { return items_[i].row.get(); }
    std::vector<const VaryRow*> rows() const;
    bool working(std::size_t i) const { return items_[i].working; }
    /// The file of its picture; that of an earlier state while a newer one is made.
    QString pictureFile(std::size_t i) const { return items_[i].picture; }
    /// The document that the rows are of.
    const Loom& loom() const { return *seen_; }
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
    bool running() const { return !stopped_ && !resting_ && left_ > 0; }
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
        Variation variation;
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

    void planNow();
    void begin();
    void run(const std::shared_ptr<Making>& making);
    void makeOne(Making& making, std::size_t item, int plan);
    void takeTold();

    Document& document_;
    VaryPlan plan_;
    QString problem_;
    std::vector<Item> items_;
    std::map<std::string, std::size_t> places_;  ///< by the variation's text
    std::size_t count_ = 0, left_ = 0;
    std::vector<Variation> stars_;
    std::shared_ptr<const Loom> seen_ = std::make_shared<const Loom>();
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
    Background background_;  ///< last: it waits for what uses the others
};

}  // namespace seedloom::app
