#pragma once
#include "app/session/Selection.h"

#include <QtCore/QElapsedTimer>
#include <QtCore/QTimer>
#include <QtWidgets/QWidget>

class QComboBox;
class QLabel;
class QToolButton;

namespace seedloom::app {

class FrameBar;
class NumberField;
class Slider;

/// The frame that formulas see as `frame` (and `time` in seconds): range, play, loop, scrub.
class TimeDrawer : public QWidget {
    Q_OBJECT

public:
    static constexpr double kFramesPerSecond = 24;

    explicit TimeDrawer(Selection& selection, QWidget* parent = nullptr);

    double frame() const { return selection_.frame(); }
    int first() const { return first_; }
    int last() const { return last_; }
    bool playing() const { return clock_.isActive(); }
    bool loops() const;
    void setFrame(double frame);
    void setRange(int first, int last);
    void setLoops(bool on);
    void play(bool on);
    /// Which frames are kept, from 0 on: filled in the bar. Empty where no step builds on earlier frames.
    void setKept(std::vector<std::uint8_t> kept);
    const std::vector<std::uint8_t>& kept() const { return kept_; }
    /// A step whose frames follow from each other.
    struct Step {
        QString name;                   ///< empty: there is none
        std::optional<int> keeps = -1;  ///< the frame that is its result; below 0: it follows the frames; nothing where a formula says it
        bool mayFollow = true;          ///< a control may allow no number below 0
        bool comesToRest = false;       ///< it tells from which frame on nothing moves
        bool operator==(const Step&) const = default;
        bool follows() const { return keeps && *keeps < 0; }
    };
    void setStep(const Step& step);
    const Step& step() const { return step_; }
    /// While the model is not ready for another frame, playing waits.
    void setReady(bool ready) { ready_ = ready; }
    /// Between the frames that are shown faintly around the current one; 0: none are.
    int ghostsEvery() const;
    QComboBox* ghostsBox() const { return ghosts_; }
    /// Those frames around one: all in the range that are done, where steps build on earlier ones, but for itself.
    std::vector<int> ghostFrames(int around) const;
    QToolButton* playButton() const { return play_; }
    QToolButton* keepButton() const { return keep_; }
    QToolButton* restButton() const { return rest_; }
    Slider* scrubber() const { return scrub_; }

Q_SIGNALS:
    void rested();
    /// This frame is to be what the step keeps; below 0: it follows the frames again.
    void keepWanted(int frame);
    /// The first frame at which all rest is to be kept.
    void restWanted();
    void rangeChanged();
    void ghostsChanged();

private:
    void tick();
    void refresh();
    void showStep();

    Selection& selection_;
    int first_ = 0, last_ = 120;
    bool ready_ = true;
    QTimer clock_;
    QElapsedTimer since_;
    double startedAt_ = 0;
    QToolButton *play_, *loop_, *keep_, *rest_;
    Slider* scrub_;
    NumberField *now_, *from_, *to_;
    QComboBox* ghosts_;
    QLabel *seconds_, *hint_;
    Step step_;
    FrameBar* bar_;
    std::vector<std::uint8_t> kept_;
};

}  // namespace seedloom::app
