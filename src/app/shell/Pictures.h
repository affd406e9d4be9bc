#pragma once
// Live thumbnails of nodes, and small pictures of what operators do; drawn in the background, kept by content.
#include "app/shell/Background.h"
#include "geometry/Digest.h"
#include "graph/Memo.h"
#include "render/Thumbnail.h"

#include <QtCore/QObject>
#include <QtGui/QPixmap>

#include <functional>
#include <map>
#include <set>

namespace seedloom::app {

class Pictures : public QObject {
    Q_OBJECT

public:
    explicit Pictures(QObject* parent = nullptr);
    ~Pictures() override;

    /// Direction from which pictures are drawn from now on, degrees.
    void setDirection(double yaw, double pitch);
    /// Draws all anew, as after a change of theme.
    void refresh();
    /// The picture of a node's result, or the last one of that node while a new one is drawn (ready() tells).
    QPixmap ofNode(const std::string& node, const Digest& key, const std::shared_ptr<const NodeOutcome>& outcome);
    /// Whether the picture of just this result is ready.
    bool drawn(const std::string& node, const Digest& key) const { return done_.count({node, key}) > 0; }
    /// What an operator makes of a simple sample.
    QPixmap ofOperator(const std::string& op);

    static constexpr int kSize = 96;

Q_SIGNALS:
    void ready();

private:
    using Key = std::pair<std::string, Digest>;
    void draw(const Key& key, std::function<Geometry()> make);

    std::atomic<bool> stop_{false};
    double yaw_ = 30, pitch_ = 18;
    std::map<Key, QPixmap> done_;
    std::set<Key> waiting_;
    std::map<std::string, QPixmap> last_;
    Background background_;  ///< last: it stops before what it writes to goes
};

}  // namespace seedloom::app
