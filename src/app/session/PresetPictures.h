#pragma once
// Small pictures of a document at its presets, made when somebody wants to see them.
#include "app/session/Background.h"
#include "app/session/Document.h"
#include "engine/Engine.h"

#include <QtGui/QPixmap>

namespace seedloom::app {

class PresetPictures : public QObject {
    Q_OBJECT

public:
    explicit PresetPictures(Document& document, QObject* parent = nullptr);
    ~PresetPictures() override;
    /// Has the document built and drawn at those presets of which there is no picture as they are now.
    void want();
    /// Null where it is not drawn, or gives nothing.
    QPixmap picture(const std::string& preset) const;

    static constexpr int kWide = 72, kHigh = 54;

Q_SIGNALS:
    void ready();

private:
    void draw(const Preset& preset);

    Document& document_;
    std::shared_ptr<Engine> engine_;
    std::shared_ptr<const Loom> seen_;  ///< that the pictures are of
    struct Drawn {
        std::map<std::string, Json> values;
        QPixmap picture;
    };
    std::map<std::string, Drawn> drawn_;
    std::shared_ptr<std::atomic<bool>> stop_ = std::make_shared<std::atomic<bool>>(false);  ///< of what is drawn now
    Background background_;                                                                 ///< last: it waits for what uses the others
};

}  // namespace seedloom::app
