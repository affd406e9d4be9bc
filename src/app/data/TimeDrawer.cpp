#include "app/data/TimeDrawer.h"

#include "app/data/FrameBar.h"
#include "app/look/Texts.h"
#include "app/look/Theme.h"
#include "app/widgets/NumberField.h"
#include "app/widgets/Slider.h"

#include <QtCore/QSettings>
#include <QtWidgets/QComboBox>
#include <QtWidgets/QHBoxLayout>
#include <QtWidgets/QLabel>
#include <QtWidgets/QToolButton>
#include <QtWidgets/QVBoxLayout>

namespace seedloom::app {

TimeDrawer::TimeDrawer(Selection& selection, QWidget* parent)
    : QWidget(parent), selection_(selection), play_(new QToolButton(this)), loop_(new QToolButton(this)), keep_(new QToolButton(this)),
      rest_(new QToolButton(this)), scrub_(new Slider(this)), now_(new NumberField(this)), from_(new NumberField(this)), to_(new NumberField(this)),
      ghosts_(new QComboBox(this)), seconds_(new QLabel(this)), hint_(new QLabel(this)), bar_(new FrameBar(this)) {
    setAccessibleName(tr("Time"));
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(16, 10, 16, 10);
    auto* row = new QHBoxLayout;
    row->setSpacing(8);
    const auto tool = [&](QToolButton* button, const QString& text, const QString& tip) {
        button->setText(text);
        button->setToolTip(tip);
        button->setCheckable(true);
        row->addWidget(button);
    };
    tool(play_, tr("Play"), tr("Go through the frames, as fast as they are ready"));
    tool(loop_, tr("Loop"), tr("Begin again after the last frame"));
    loop_->setChecked(true);
    const auto field = [&](NumberField* number, const QString& label, const QString& name) {
        auto* text = new QLabel(label, this);
        text->setProperty("role", "faint");
        row->addWidget(text);
        number->setWhole(true);
        number->setStep(0.1);
        number->setFixedWidth(px(64));
        number->setAccessibleName(name);
        number->setAccessibleDescription(tr("A whole frame; frames before 0 can be looked at, too"));
        row->addWidget(number);
    };
    row->addSpacing(10);
    field(now_, tr("frame"), tr("Frame"));
    seconds_->setFont(numberFont(11));
    seconds_->setMinimumWidth(px(64));
    row->addWidget(seconds_);
    row->addSpacing(10);
    keep_->setAccessibleName(tr("Keep this frame"));
    rest_->setText(tr("Let it rest"));
    rest_->setToolTip(tr("Go on until all is at rest, and keep that frame"));
    row->addWidget(keep_);
    row->addWidget(rest_);
    row->addSpacing(10);
    ghosts_->addItem(tr("No ghosts"), 0);
    for (const int every : {2, 5, 10, 20, 50}) ghosts_->addItem(tr("Ghosts: every %1").arg(every), every);
    ghosts_->setAccessibleName(tr("Ghosts"));
    ghosts_->setToolTip(tr("Shows the model faintly as it is at every so many frames; frames that are not done yet are left out"));
    ghosts_->setCurrentIndex(std::max(0, ghosts_->findData(QSettings().value(QStringLiteral("ghosts")).toInt())));
    row->addWidget(ghosts_);
    row->addStretch();
    field(from_, tr("from"), tr("First frame"));
    field(to_, tr("to"), tr("Last frame"));
    column->addLayout(row);
    scrub_->setWhole(true);
    scrub_->setAccessibleName(tr("Scrub through the frames"));
    scrub_->setAccessibleDescription(tr("Drag to build and show another frame"));
    column->addWidget(scrub_);
    column->addWidget(bar_);
    hint_->setProperty("role", "faint");
    hint_->setWordWrap(true);
    column->addWidget(hint_);
    column->addStretch();
    connect(ghosts_, &QComboBox::activated, this, [this] {
        QSettings().setValue(QStringLiteral("ghosts"), ghostsEvery());
        Q_EMIT ghostsChanged();
    });
    connect(&selection_, &Selection::frameChanged, this, &TimeDrawer::refresh);
    clock_.setInterval(int(1000 / kFramesPerSecond));
    connect(&clock_, &QTimer::timeout, this, &TimeDrawer::tick);
    connect(play_, &QToolButton::clicked, this, &TimeDrawer::play);
    connect(keep_, &QToolButton::clicked, this, [this] {
        play(false);
        Q_EMIT keepWanted(step_.follows() || !step_.mayFollow ? std::max(0, int(frame())) : -1);
    });
    connect(rest_, &QToolButton::clicked, this, [this] {
        play(false);
        Q_EMIT restWanted();
    });
    connect(scrub_, &Slider::edited, this, [this](double value, bool gesture) {
        play(false);
        selection_.setFrame(value, gesture);
    });
    connect(scrub_, &Slider::dragEnded, this, &TimeDrawer::rested);
    connect(now_, &NumberField::edited, this, [this](double value, bool gesture) {
        play(false);
        selection_.setFrame(value, gesture);
    });
    connect(now_, &NumberField::dragEnded, this, &TimeDrawer::rested);
    connect(from_, &NumberField::edited, this, [this](double value) { setRange(int(value), std::max(int(value) + 1, last_)); });
    connect(to_, &NumberField::edited, this, [this](double value) { setRange(std::min(first_, int(value) - 1), int(value)); });
    refresh();
}

int TimeDrawer::ghostsEvery() const { return ghosts_->currentData().toInt(); }

std::vector<int> TimeDrawer::ghostFrames(int around) const {
    std::vector<int> out;
    const int every = ghostsEvery();
    for (int frame = first_; every > 0 && frame <= last_; frame += every) {
        const bool done = kept_.empty() || (frame >= 0 && frame < int(kept_.size()) && kept_[std::size_t(frame)]);
        if (done && frame != around) out.push_back(frame);
    }
    return out;
}

void TimeDrawer::setKept(std::vector<std::uint8_t> kept) {
    if (kept == kept_) return;
    kept_ = std::move(kept);
    refresh();
}

void TimeDrawer::setStep(const Step& step) {
    if (step == step_) return;
    step_ = step;
    refresh();
}

/// What can be done with the frame, and what is done with it now.
void TimeDrawer::showStep() {
    const bool any = !step_.name.isEmpty(), keeping = step_.follows() || !step_.mayFollow;
    keep_->setVisible(any);
    rest_->setVisible(any && step_.follows() && step_.comesToRest);
    keep_->setText(keeping ? tr("Keep this frame") : tr("Follow the frames"));
    keep_->setToolTip(keeping ? tr("Makes this frame the result of %1, whatever the frame is").arg(step_.name)
                              : tr("%1 shows the frame of this drawer again").arg(step_.name));
    if (!any) hint_->setText(tr("Formulas see the frame as frame, and the seconds as time. Frames that were computed once are remembered."));
    else if (!step_.keeps) hint_->setText(tr("A formula says which frame %1 keeps as its result.").arg(step_.name));
    else if (step_.follows()) hint_->setText(tr("Each frame of %1 follows from the one before; those that are done are filled in the bar.").arg(step_.name));
    else if (step_.mayFollow) hint_->setText(tr("%1 keeps frame %2 as its result, whatever the frame is here.").arg(step_.name).arg(*step_.keeps));
    else hint_->setText(tr("A control keeps frame %2 as the result of %1: drag that one to go through the frames.").arg(step_.name).arg(*step_.keeps));
}

bool TimeDrawer::loops() const { return loop_->isChecked(); }

void TimeDrawer::setLoops(bool on) { loop_->setChecked(on); }

void TimeDrawer::setRange(int first, int last) {
    first_ = first;
    last_ = std::max(last, first + 1);
    refresh();
    Q_EMIT rangeChanged();
}

void TimeDrawer::setFrame(double frame) { selection_.setFrame(frame); }

void TimeDrawer::play(bool on) {
    play_->setChecked(on);
    play_->setText(on ? tr("Stop") : tr("Play"));
    if (!on) return clock_.stop();
    if (frame() >= last_) setFrame(first_);
    startedAt_ = frame();
    since_.start();
    clock_.start();
}

/// Keeps to the clock: frames that are not ready in time are left out, none is waited for twice.
void TimeDrawer::tick() {
    if (!ready_) return;
    double wanted = startedAt_ + std::floor(double(since_.elapsed()) * kFramesPerSecond / 1000);
    if (wanted > last_) {
        if (!loops()) {
            setFrame(last_);
            return play(false);
        }
        startedAt_ = wanted = first_;
        since_.restart();
    }
    setFrame(wanted);
}

void TimeDrawer::refresh() {
    scrub_->setRange(first_, last_);
    scrub_->setValue(frame());
    now_->setValue(frame());
    bar_->show(kept_, first_, last_);
    from_->setValue(first_);
    to_->setValue(last_);
    showStep();
    seconds_->setText(tr("%1 s").arg(shownNumber(frame() / kFramesPerSecond, 'f', 2)));
}

}  // namespace seedloom::app
