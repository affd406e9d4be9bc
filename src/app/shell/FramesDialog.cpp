#include "app/shell/FramesDialog.h"

#include "app/look/Theme.h"
#include "app/session/Preferences.h"

#include <QtCore/QFileInfo>
#include <QtWidgets/QFileDialog>
#include <QtWidgets/QFormLayout>
#include <QtWidgets/QHBoxLayout>
#include <QtWidgets/QLabel>
#include <QtWidgets/QLineEdit>
#include <QtWidgets/QProgressBar>
#include <QtWidgets/QPushButton>
#include <QtWidgets/QRadioButton>
#include <QtWidgets/QSpinBox>
#include <QtWidgets/QVBoxLayout>

namespace seedloom::app {

namespace {

constexpr double kSecondsOfFrame = 1.0 / 24;

QSpinBox* frameBox(int value, const QString& name, QWidget* parent) {
    auto* box = new QSpinBox(parent);
    box->setRange(0, kLastFrame);
    box->setValue(value);
    box->setAccessibleName(name);
    return box;
}

}  // namespace

FramesDialog::FramesDialog(Session& session, FrameRange range, const QString& file, QWidget* parent)
    : QDialog(parent), session_(session), first_(frameBox(range.from, tr("First frame"), this)), last_(frameBox(range.to, tr("Last frame"), this)),
      together_(new QRadioButton(tr("One file in which pieces and copies &move"), this)), each_(new QRadioButton(tr("A file for &each frame"), this)),
      file_(new QLineEdit(file, this)), message_(new QLabel(this)), progress_(new QProgressBar(this)), write_(new QPushButton(tr("&Write"), this)),
      stop_(new QPushButton(tr("&Close"), this)) {
    setWindowTitle(tr("Write frames"));
    setMinimumWidth(px(520));
    auto* column = new QVBoxLayout(this);
    auto* form = new QFormLayout;
    auto* frames = new QHBoxLayout;
    frames->addWidget(first_);
    frames->addWidget(new QLabel(tr("to"), this));
    frames->addWidget(last_);
    frames->addStretch();
    form->addRow(tr("Frames"), frames);
    auto* kinds = new QVBoxLayout;
    kinds->addWidget(together_);
    kinds->addWidget(each_);
    together_->setChecked(true);
    form->addRow(tr("As"), kinds);
    auto* row = new QHBoxLayout;
    file_->setAccessibleName(tr("File"));
    row->addWidget(file_, 1);
    auto* other = new QPushButton(tr("C&hoose …"), this);
    row->addWidget(other);
    form->addRow(tr("File"), row);
    column->addLayout(form);
    progress_->setTextVisible(false);
    progress_->setFixedHeight(px(6));
    progress_->setAccessibleName(tr("Frames written"));
    QSizePolicy kept = progress_->sizePolicy();
    kept.setRetainSizeWhenHidden(true);
    progress_->setSizePolicy(kept);
    column->addWidget(progress_);
    message_->setWordWrap(true);
    message_->setMinimumHeight(px(44));
    message_->setAlignment(Qt::AlignTop | Qt::AlignLeft);
    message_->setTextInteractionFlags(Qt::TextSelectableByMouse);
    message_->setAccessibleName(tr("What is to be known"));
    column->addWidget(message_);
    auto* buttons = new QHBoxLayout;
    buttons->addStretch();
    buttons->addWidget(stop_);
    buttons->addWidget(write_);
    write_->setProperty("role", "default");
    write_->setDefault(true);
    column->addLayout(buttons);
    connect(together_, &QRadioButton::toggled, this, &FramesDialog::proposeName);
    connect(other, &QPushButton::clicked, this, &FramesDialog::choose);
    connect(write_, &QPushButton::clicked, this, &FramesDialog::write);
    connect(stop_, &QPushButton::clicked, this, [this] { run_.running() ? stop() : reject(); });
    const auto changed = [this] {
        ended_.clear();
        refresh();
    };
    for (QSpinBox* box : {first_, last_}) connect(box, &QSpinBox::valueChanged, this, changed);
    connect(file_, &QLineEdit::textChanged, this, changed);
    connect(&run_, &FramesExport::progressed, this, [this](int done, int all) {
        progress_->setMaximum(all);
        progress_->setValue(done);
        ended_ = tr("Frame %1 of %2").arg(done).arg(all);
        refresh();
    });
    connect(&run_, &FramesExport::ended, this, &FramesDialog::showEnd);
    refresh();
}

QString FramesDialog::message() const { return message_->text(); }

/// The same name with what the other kind needs.
void FramesDialog::proposeName() {
    const QFileInfo info(file_->text());
    QString name = info.completeBaseName(), ending = info.suffix();
    if (together_->isChecked()) {
        while (name.endsWith(QLatin1Char('#'))) name.chop(1);
        while (name.endsWith(QLatin1Char('.'))) name.chop(1);
        ending = QStringLiteral("glb");
    } else if (!name.contains(QLatin1Char('#'))) {
        name += QStringLiteral(".####");
    }
    file_->setText(info.path() + QLatin1Char('/') + name + QLatin1Char('.') + ending);
}

void FramesDialog::choose() {
    const QString filter = together_->isChecked() ? tr("glTF binary (*.glb)") : tr("glTF binary (*.glb);;OBJ (*.obj);;PLY (*.ply);;STL (*.stl)");
    QString file = QFileDialog::getSaveFileName(this, windowTitle(), file_->text(), filter, nullptr, QFileDialog::DontConfirmOverwrite);
    if (file.isEmpty()) return;
    if (QFileInfo(file).suffix().isEmpty()) file += QStringLiteral(".glb");
    file_->setText(file);
    proposeName();
}

void FramesDialog::write() {
    const Document& document = session_.document();
    RebuildRequest request;
    request.loom = document.snapshot();
    request.assets = document.assets();
    request.controls = session_.rebuilds().controls();
    request.folder = document.file().parent_path().string();
    request.files = diskFiles();
    request.threads = preferences::threads();
    request.secondsPerFrame = kSecondsOfFrame;
    ended_ = tr("The first frame is being built.");
    progress_->setMaximum(last_->value() - first_->value() + 1);
    progress_->setValue(0);
    run_.start(std::move(request), {{first_->value(), last_->value()}, file_->text(), together_->isChecked()});
    refresh();
}

void FramesDialog::stop() {
    run_.cancel();
    ended_ = together_->isChecked() ? tr("Stopped; nothing was written.") : tr("Stopped; the frames that were ready are written.");
    refresh();
}

void FramesDialog::showEnd(const QString& problem, const QStringList& files, bool moved) {
    const QString where = files.isEmpty() ? QString() : QFileInfo(files.last()).fileName();
    if (!problem.isEmpty()) ended_ = tr("Not written to the end. %1").arg(problem);
    else if (!moved && first_->value() < last_->value())
        ended_ = tr("%1 is written, but nothing moves in it. Where a node keeps one of its frames, let it follow them.").arg(where);
    else ended_ = files.size() == 1 ? tr("Written: %1.").arg(where) : tr("%1 files are written, the last one is %2.").arg(files.size()).arg(where);
    refresh();
}

void FramesDialog::refresh() {
    const bool runs = run_.running();
    std::optional<Error> problem = problemOf({first_->value(), last_->value()});
    if (!problem) problem = problemOfName(file_->text().toStdString(), together_->isChecked());
    for (QWidget* each : std::initializer_list<QWidget*>{first_, last_, together_, each_, file_}) each->setEnabled(!runs);
    write_->setEnabled(!runs && !problem);
    progress_->setVisible(runs);
    stop_->setText(runs ? tr("&Stop") : tr("&Close"));
    const int frames = last_->value() - first_->value() + 1;
    if (problem) message_->setText(QString::fromStdString(problem->text));
    else if (!ended_.isEmpty()) message_->setText(ended_);
    else
        message_->setText(together_->isChecked()
                              ? tr("%1 frames, %2 s: each piece and copy once, with a key a frame.").arg(frames).arg(frames * kSecondsOfFrame, 0, 'f', 1)
                              : tr("%1 files.").arg(frames));
}

}  // namespace seedloom::app
