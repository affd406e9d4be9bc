#include "app/shell/MainWindow.h"

#include "app/data/DataDrawer.h"
#include "app/settings/ControlsPanel.h"
#include "app/settings/SettingsPanel.h"
#include "app/shell/Theme.h"
#include "app/stage/Stage.h"
#include "app/weave/Weave.h"
#include "formats/LoomFile.h"
#include "formats/MeshFile.h"
#include "graph/Controls.h"

#include <QtCore/QFile>
#include <QtCore/QSettings>
#include <QtGui/QCloseEvent>
#include <QtWidgets/QFileDialog>
#include <QtWidgets/QInputDialog>
#include <QtWidgets/QMessageBox>

namespace seedloom::app {

MainWindow::MainWindow() {
    resize(1280, 800);
    setWindowIcon(icon(QStringLiteral("seedloom"), colours().chosen));
    makeActions();
    makeLayout();
    connect(&document_, &Document::changed, this, &MainWindow::rebuildNow);
    connect(&document_, &Document::changed, this, [this] {
        setWindowTitle(tr("%1%2 — Seed Loom").arg(document_.title(), document_.modified() ? tr(" (edited)") : QString()));
        stage_->setHandles(handlesOf(weave_->chosen()));
    });
    connect(&document_, &Document::replaced, this, [this] {
        stage_->frameNext();
        showMessage({});
    });
    connect(&rebuilds_, &RebuildService::nodeChanged, this, [this](const QString& node) {
        const std::string shown = weave_->pinned().empty() ? weave_->chosen() : weave_->pinned();
        if (node.toStdString() == shown) showChosen();
    });
    connect(&rebuilds_, &RebuildService::finished, this, [this] {
        showChosen();
        showNotices();
    });
    connect(weave_, &Weave::chosenChanged, this, [this] {
        settings_->setNode(weave_->chosen());
        showChosen();
    });
    connect(weave_, &Weave::pinnedChanged, this, &MainWindow::showChosen);
    connect(weave_, &Weave::settingsWanted, settings_, &SettingsPanel::focusFirst);
    connect(stage_, &Stage::handleMoved, this, &MainWindow::moveHandle);
    connect(stage_, &Stage::directionSettled, &pictures_, &Pictures::setDirection);
    restoreLayout();
    document_.startNew();
}

MainWindow::~MainWindow() {
    // The history tells of its own end; by then nobody who would ask the rebuilds may listen any more.
    document_.history().disconnect();
    document_.disconnect();
    rebuilds_.disconnect();
    pictures_.disconnect();
    delete takeCentralWidget();
}

void MainWindow::rebuildNow() {
    auto values = controlValues(document_.loom());
    if (!values) {
        showMessage(QString::fromStdString(values.error().text));
        values = ControlValues();
    }
    rebuilds_.request(document_.snapshot(), std::move(*values));
}

void MainWindow::showChosen() {
    const std::string& pinned = weave_->pinned();
    const std::string shown = pinned.empty() ? weave_->chosen() : pinned;
    const auto nameOf = [this](const std::string& id) {
        const Node* node = document_.loom().node(id);
        return node ? QString::fromStdString(displayName(*node)) : QString();
    };
    stage_->show(nameOf(shown), rebuilds_.outcome(shown), !pinned.empty());
    stage_->setHandles(handlesOf(weave_->chosen()));
    if (data_->isVisible()) data_->show(nameOf(weave_->chosen()), rebuilds_.outcome(weave_->chosen()));
}

std::vector<Vec3> MainWindow::handlesOf(const std::string& node) const {
    const Node* found = document_.loom().node(node);
    std::vector<Vec3> out;
    if (!found || found->op != "point_list" || found->skipped) return out;
    const auto it = found->settings.find("points");
    if (it == found->settings.end() || !it->is_array()) return out;
    for (const Json& p : *it) {
        Numbers n;
        if (!numbersOf(p, n) || n.components != 3) return {};
        out.push_back({float(n.value[0]), float(n.value[1]), float(n.value[2])});
    }
    return out;
}

void MainWindow::moveHandle(int index, Vec3 to, int phase) {
    if (phase == 0) handleGesture_ = document_.newGesture();
    if (phase != 1) return;
    const Node* node = document_.loom().node(weave_->chosen());
    if (!node || !node->settings.contains("points")) return;
    Json points = node->settings["points"];
    // Shortest decimals of the float, so that files stay readable.
    const auto plain = [](float v) { return std::round(double(v) * 1e6) / 1e6; };
    points[std::size_t(index)] = {plain(to.x), plain(to.y), plain(to.z)};
    document_.apply(setSetting(document_.loom(), node->id, "points", points), handleGesture_);
}

bool MainWindow::openFile(const QString& file) {
    if (const auto error = document_.open(file.toStdString())) {
        showMessage(tr("%1 was not opened. %2").arg(QFileInfo(file).fileName(), QString::fromStdString(error->text)));
        return false;
    }
    return true;
}

void MainWindow::openDemo() {
    QFile file(QStringLiteral(":/demo/mooring-bollard.loom"));
    if (!file.open(QIODevice::ReadOnly)) return;
    if (auto loom = loomFromText(file.readAll().toStdString())) document_.adopt(std::move(*loom));
    weave_->choose("soften");
}

bool MainWindow::saveTo(const QString& file) {
    if (const auto error = document_.save(file.toStdString())) {
        showMessage(tr("Not saved. %1 Choose another place with Save as; nothing is lost.").arg(QString::fromStdString(error->text)));
        return false;
    }
    showMessage({});
    return true;
}

bool MainWindow::exportTo(const QString& file) {
    const auto outcome = rebuilds_.outcome(document_.loom().output);
    if (!outcome || rebuilds_.running()) {
        showMessage(tr("The model is not ready yet. Wait until the rebuild is done, then export again."));
        return false;
    }
    if (const auto error = writeMesh(outcome->geometry, file.toStdString())) {
        showMessage(tr("Not exported. %1").arg(QString::fromStdString(error->text)));
        return false;
    }
    showMessage(tr("Exported to %1.").arg(QFileInfo(file).fileName()));
    return true;
}

bool MainWindow::save() { return document_.file().empty() ? saveAs() : saveTo(QString::fromStdString(document_.file().string())); }

bool MainWindow::saveAs() {
    QString file = QFileDialog::getSaveFileName(this, tr("Save the loom"), document_.title().toLower().replace(QLatin1Char(' '), QLatin1Char('-')) + QStringLiteral(".loom"),
                                                tr("Looms (*.loom)"));
    if (file.isEmpty()) return false;
    if (QFileInfo(file).suffix().isEmpty()) file += QStringLiteral(".loom");
    if (document_.loom().name == tr("Untitled").toStdString()) document_.apply(renameLoom(document_.loom(), QFileInfo(file).completeBaseName().toStdString()));
    return saveTo(file);
}

void MainWindow::renameAsked() {
    bool taken = false;
    const QString name = QInputDialog::getText(this, tr("Rename"), tr("Name of the loom"), QLineEdit::Normal, document_.title(), &taken).trimmed();
    if (taken && !name.isEmpty()) document_.apply(renameLoom(document_.loom(), name.toStdString()));
}

void MainWindow::openAsked() {
    if (!mayLeave()) return;
    const QString file = QFileDialog::getOpenFileName(this, tr("Open a loom"), {}, tr("Looms (*.loom)"));
    if (!file.isEmpty()) openFile(file);
}

void MainWindow::exportAsked() {
    QString file = QFileDialog::getSaveFileName(this, tr("Export the model"), document_.title().toLower().replace(QLatin1Char(' '), QLatin1Char('-')) + QStringLiteral(".glb"),
                                                tr("glTF binary (*.glb);;OBJ (*.obj);;PLY (*.ply);;STL (*.stl)"));
    if (file.isEmpty()) return;
    if (QFileInfo(file).suffix().isEmpty()) file += QStringLiteral(".glb");
    exportTo(file);
}

bool MainWindow::mayLeave() {
    if (!document_.modified()) return true;
    QMessageBox box(QMessageBox::NoIcon, tr("Unsaved changes"), tr("Save the changes to %1?").arg(document_.title()), QMessageBox::Save | QMessageBox::Discard | QMessageBox::Cancel, this);
    box.setInformativeText(tr("Changes that are not saved are lost."));
    box.button(QMessageBox::Discard)->setText(tr("Don't save"));
    box.setDefaultButton(QMessageBox::Save);
    const int answer = box.exec();
    if (answer == QMessageBox::Cancel) return false;
    return answer == QMessageBox::Discard || save();
}

void MainWindow::closeEvent(QCloseEvent* event) {
    if (!mayLeave()) return event->ignore();
    saveLayout();
    event->accept();
}

}  // namespace seedloom::app
