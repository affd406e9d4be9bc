#pragma once
// Which frames are done: filled where they are kept, empty where they are not.
#include <QtWidgets/QWidget>

#include <cstdint>
#include <vector>

namespace seedloom::app {

class FrameBar : public QWidget {
    Q_OBJECT

public:
    explicit FrameBar(QWidget* parent = nullptr);
    /// `kept` counts frames from 0; the bar runs from `first` to `last`. Hidden where nothing is kept by frames.
    void show(std::vector<std::uint8_t> kept, int first, int last);

protected:
    void paintEvent(QPaintEvent*) override;

private:
    bool isKept(int frame) const { return frame >= 0 && frame < int(kept_.size()) && kept_[std::size_t(frame)]; }
    std::vector<std::uint8_t> kept_;
    int first_ = 0, last_ = 1;
};

}  // namespace seedloom::app
