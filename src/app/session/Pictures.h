#pragma once
// Live thumbnails of nodes, and small pictures of what operators do; drawn in the background, kept by content.
#include "app/session/Background.h"
#include "geometry/Digest.h"
#include "graph/Memo.h"
#include "render/Thumbnail.h"

#include <QtCore/QObject>
#include <QtGui/QPixmap>

#include <deque>
#include <functional>
#include <map>
#include <mutex>
#include <optional>

namespace seedloom::app {

using PictureKey = std::pair<std::string, Digest>;  ///< what it is of, and in which state

struct PictureWish {
    PictureKey key;
    std::function<Geometry()> make;
    ThumbnailOptions options;
    int document = 0;  ///< of which it is
};

/// Wishes that wait, the newest first, or the one that was asked for again last; one that another of the same node has overtaken is dropped. Thread-safe.
class PictureQueue {
public:
    static constexpr std::size_t kMostWaiting = 500;
    /// False where it waits, or is drawn, already.
    bool put(PictureWish wish);
    std::optional<PictureWish> take();
    void done(const PictureKey& key);

private:
    std::mutex mutex_;
    std::deque<PictureWish> waiting_;  ///< oldest first
    std::optional<PictureKey> drawn_;
};

class Pictures : public QObject {
    Q_OBJECT

public:
    explicit Pictures(QObject* parent = nullptr);
    ~Pictures() override;

    /// Direction from which pictures are drawn from now on, degrees.
    void setDirection(double yaw, double pitch);
    /// Another document is shown: its nodes have no last pictures, whatever they are called.
    void forgetNodes();
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
    using Key = PictureKey;
    void draw(const Key& key, std::function<Geometry()> make);

    std::atomic<bool> stop_{false};
    double yaw_ = 30, pitch_ = 18;
    std::map<Key, QPixmap> done_;
    PictureQueue queue_;
    std::map<std::string, QPixmap> last_;
    int document_ = 0;       ///< pictures of an earlier one are nobody's last
    Background background_;  ///< last: it stops before what it writes to goes
};

}  // namespace seedloom::app
