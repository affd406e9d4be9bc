// Documents on disk: opening, saving, exporting, recovering, and what may go wrong with each.
#include "app/shell/MainWindow.h"

#include "app/look/Texts.h"
#include "app/session/Demos.h"
#include "app/session/Preferences.h"
#include "app/session/RecentFiles.h"
#include "app/shell/LeftWork.h"
#include "app/shell/RecentDialog.h"
#include "app/shell/StartPage.h"
#include "app/stage/Stage.h"
#include "app/weave/Weave.h"
#include "files/PictureFile.h"
#include "formats/LoomFile.h"
#include "formats/Pack.h"
#include "meshes/MeshFile.h"
#include "meshes/OutlineFile.h"

#include <QtCore/QFile>
#include <QtCore/QFileInfo>
#include <QtCore/QMimeData>
#include <QtGui/QCloseEvent>
#include <QtWidgets/QFileDialog>
#include <QtWidgets/QInputDialog>
#include <QtWidgets/QMessageBox>

namespace seedloom::app {

MainWindow* MainWindow::openNew() {
    auto* window = new MainWindow;
    window->setAttribute(Qt::WA_DeleteOnClose);
    for (const MainWindow* other : windows())
        if (!other->journalFolder_.isEmpty()) window->journalFolder_ = other->journalFolder_;
    window->followPreferences();
    return window;
}

/// A list of their own: a window that gets its panels anew loses popups, which are windows as well.
QList<MainWindow*> MainWindow::windows() {
    QList<MainWindow*> out;
    for (QWidget* widget : QApplication::topLevelWidgets())
        if (auto* window = qobject_cast<MainWindow*>(widget)) out << window;
    return out;
}

namespace {

bool isImported(const QString& file) { return !importsOf(file.toStdString()).empty(); }

bool becomesAMesh(const QString& file) {
    const auto ways = importsOf(file.toStdString());
    return !ways.empty() && ways.front() == ImportedAs::mesh;
}

/// Endings of all that can be imported, as a file dialog wants them.
QString importedPatterns() {
    std::vector<std::string> out = readableEndings();
    for (const auto* more : {&outlineEndings(), &pictureEndings()}) out.insert(out.end(), more->begin(), more->end());
    return filePatterns(out);
}

QString nameOfWay(ImportedAs way) {
    switch (way) {
        case ImportedAs::curves: return MainWindow::tr("Curves");
        case ImportedAs::solid: return MainWindow::tr("A solid");
        case ImportedAs::relief: return MainWindow::tr("A relief");
        case ImportedAs::colours: return MainWindow::tr("A coloured sheet");
        case ImportedAs::mesh: break;
    }
    return MainWindow::tr("A mesh");
}

bool isLoom(const QString& file) { return QFileInfo(file).suffix().toLower() == QLatin1String("loom"); }

}  // namespace

bool MainWindow::openFile(const QString& file) {
    if (isImported(file) && QFileInfo::exists(file)) {
        if (!becomesAMesh(file)) return offerImport(file);
        openImports({{QFileInfo(file).absoluteFilePath().toStdString()}});
        return true;
    }
    if (isPack(file.toStdString()) && QFileInfo::exists(file)) {
        showMessage(
            tr("%1 is an asset that was published: it is used as one node, and changed in the loom that it was made from.").arg(QFileInfo(file).fileName()),
            {{tr("Use it in a new loom"), [this, file = QFileInfo(file).absoluteFilePath()] { useAsset(file); }},
             {tr("Work on a copy …"), [this, file = QFileInfo(file).absoluteFilePath()] { unpackAsked(file); }}});
        return false;
    }
    if (const auto error = document_.open(file.toStdString())) {
        if (!isLoom(file) && QFileInfo::exists(file)) {
            showMessage(tr("%1 was not opened: it is neither a loom (.loom) nor a mesh, drawing or picture that can be read (%2).")
                            .arg(QFileInfo(file).fileName(), importedPatterns().remove(QLatin1Char('*'))));
            return false;
        }
        const QString text = tr("%1 was not opened. %2").arg(QFileInfo(file).fileName(), QString::fromStdString(error->text));
        std::vector<Answer> answers;
        if (QFileInfo::exists(file + QLatin1Char('~'))) answers.push_back({tr("Open the last good copy"), [this, file] { openLastGood(file); }});
        showMessage(text, answers);
        return false;
    }
    if (!isDemoFile(file)) rememberRecent(file);
    watchFile();
    restoreViews();
    return true;
}

/// That of Build, with those of the other workplaces under their ids.
Json MainWindow::viewNow() const {
    Json out = build().saveView();
    for (const auto& workplace : workplaces_)
        if (const Json view = workplace.get() == workplaces_.front().get() ? Json() : workplace->saveView(); !view.is_null())
            out[workplace->id().toStdString()] = view;
    return out;
}

void MainWindow::restoreViews() {
    const Json view = document_.view();
    for (const auto& workplace : workplaces_) {
        const bool first = workplace.get() == workplaces_.front().get();
        workplace->restoreView(first || !view.is_object() ? view : view.value(workplace->id().toStdString(), Json()));
    }
}

void MainWindow::openFiles(const QStringList& files) {
    std::vector<ImportedFile> imported;
    QStringList looms;
    for (const QString& file : files) {
        const auto ways = importsOf(file.toStdString());
        if (ways.empty()) looms << file;
        else imported.push_back({QFileInfo(file).absoluteFilePath().toStdString(), ways.front()});
    }
    if (imported.size() == 1) openFile(QString::fromStdString(imported.front().file));
    else if (!imported.empty()) openImports(imported);
    else if (!looms.isEmpty()) openFile(looms.takeFirst());
    for (const QString& file : looms) {
        MainWindow* window = openNew();
        window->openFile(file);
        window->show();
    }
}

/// Nothing is written yet: the new loom names the files where they lie.
void MainWindow::openImports(const std::vector<ImportedFile>& files) {
    document_.adopt(loomImporting(files));
    const QString first = QFileInfo(QString::fromStdString(files.front().file)).fileName();
    showMessage(files.size() == 1 ? tr("A new loom that imports %1. Save it where you like; the file stays where it is.").arg(first)
                                  : tr("A new loom that imports %1 files. Save it where you like; they stay where they are.").arg(files.size()),
                {{tr("Save as …"), [this] { saveAs(); }}});
}

void MainWindow::useAsset(const QString& file) {
    if (!mayLeave()) return;
    document_.startNew();
    std::string id;
    Edit edit = addNode(document_.loom(), "asset", {0, 0}, &id);
    if (const auto added = applied(document_.loom(), edit)) edit = joined(edit, setSetting(*added, id, "asset", file.toStdString()));
    document_.apply(edit);
}

bool MainWindow::offerImport(const QString& file) {
    const std::string path = QFileInfo(file).absoluteFilePath().toStdString();
    if (const auto problem = importProblem(path)) {
        showMessage(tr("%1 was not opened. %2").arg(QFileInfo(file).fileName(), QString::fromStdString(problem->text)));
        return false;
    }
    std::vector<Answer> answers;
    for (const ImportedAs way : importsOf(path))
        answers.push_back({nameOfWay(way), [this, path, way] {
                               if (mayLeave()) openImports({{path, way}});
                           }});
    showMessage(tr("%1 can be built on in a new loom. What shall it become there?").arg(QFileInfo(file).fileName()), answers);
    return true;
}

void MainWindow::openNamedDemo(const QString& id) {
    const QString file = demoFile(id);
    if (file.isEmpty()) return showMessage(tr("The demo could not be written to your data folder. Is the disk full?"));
    openFile(file);
}

/// The copy is opened as an unsaved document of the broken file's name, so that saving puts it right.
void MainWindow::openLastGood(const QString& file) {
    auto loom = readLoom((file + QLatin1Char('~')).toStdString());
    if (!loom) return showMessage(tr("The last good copy can't be read either. %1").arg(QString::fromStdString(loom.error().text)));
    document_.adopt(std::move(*loom));
    showMessage(tr("This is the last good copy of %1. Save it to keep it.").arg(QFileInfo(file).fileName()),
                {{tr("Save over the broken file"), [this, file] { saveTo(file); }}});
}

void MainWindow::openDemo() {
    QFile file(QStringLiteral(":/demo/mooring-bollard.loom"));
    if (!file.open(QIODevice::ReadOnly)) return;
    if (auto loom = loomFromText(file.readAll().toStdString())) document_.adopt(std::move(*loom));
    weave()->choose("soften");
}

bool MainWindow::saveTo(const QString& file) {
    if (isDemoFile(file)) {
        showMessage(tr("Demos stay as they are, so that they can be opened again. Choose another folder."), {{tr("Save as …"), [this] { saveAs(); }}});
        return false;
    }
    document_.setView(viewNow());
    if (!watcher_.files().isEmpty()) watcher_.removePaths(watcher_.files());
    if (const auto error = document_.save(file.toStdString())) {
        showMessage(tr("Not saved. %1 Your work is still here.").arg(QString::fromStdString(error->text)),
                    {{tr("Save as …"), [this] { saveAs(); }}, {tr("Try again"), [this, file] { saveTo(file); }}});
        watchFile();
        return false;
    }
    showMessage({});
    rememberRecent(file);
    pictureWanted_ = file;
    keepPicture();
    watchFile();
    return true;
}

/// Pictures give way to all other work, so that of a file just saved may still have to be drawn; then it is kept when it is.
void MainWindow::keepPicture() {
    if (pictureWanted_.isEmpty()) return;
    const std::string& output = document_.loom().output;
    const NodeReport report = session_.rebuilds().reportOf(output);
    const QPixmap picture = session_.pictures().ofNode(output, report.key.digest, report.outcome);
    if (session_.rebuilds().running() || !session_.pictures().drawn(output, report.key.digest)) return;
    rememberPicture(pictureWanted_, picture);
    pictureWanted_.clear();
}

void MainWindow::watchFile() {
    if (!watcher_.files().isEmpty()) watcher_.removePaths(watcher_.files());
    const QString file = QString::fromStdString(document_.file().string());
    if (QFileInfo::exists(file)) watcher_.addPath(file);
    watchedAssets_ = document_.assetFiles();
    for (const auto& asset : watchedAssets_)
        if (std::filesystem::exists(asset)) watcher_.addPath(QString::fromStdString(asset.string()));
}

void MainWindow::checkDisk() {
    document_.rereadAssets();
    watchFile();
    if (!document_.changedOnDisk()) return;
    const QString file = QString::fromStdString(document_.file().string());
    document_.acceptDisk();
    watchFile();
    if (!QFileInfo::exists(file))
        return showMessage(tr("%1 is not there any more. What you see is kept; save it to put it back.").arg(QFileInfo(file).fileName()),
                           {{tr("Save"), [this] { save(); }}});
    showMessage(tr("%1 was changed by another program.").arg(QFileInfo(file).fileName()),
                {{tr("Load it, and lose what is here"), [this, file] { openFile(file); }}, {tr("Keep mine"), [this] { showMessage({}); }}});
}

bool MainWindow::exportTo(const QString& file, bool large) {
    const auto outcome = session_.rebuilds().outcomeOf(document_.loom().output);
    if (!outcome || session_.rebuilds().running() || session_.rebuilds().incomplete()) {
        showMessage(tr("The model is not ready yet. Wait until the rebuild is done, then export again."));
        return false;
    }
    if (outcome->coarse) {
        showMessage(tr("There is only a coarse model, since the rebuild was stopped."), {{tr("Rebuild it"), [this] { session_.rebuild(); }}});
        return false;
    }
    if (exporting_) {
        showMessage(tr("Another export is still being written."));
        return false;
    }
    // Formats without copies can grow a light scene to a file of gigabytes: asked before, not told after.
    const FileEstimate estimate = estimateFile(outcome->geometry, file.toStdString());
    if (!large && estimate.baked && estimate.bytes >= kLargeFileBytes) {
        const QFileInfo info(file);
        const QString instead = info.path() + QLatin1Char('/') + info.completeBaseName() + QStringLiteral(".glb");
        showMessage(tr("%1 knows no copies, so all %2 of them become faces: %3 triangles, about %4 MB.")
                        .arg(QLatin1Char('.') + info.suffix(), countText(outcome->geometry.copyCount()), countText(estimate.triangles),
                             countText(estimate.bytes / 1'000'000)),
                    {{tr("Write %1 instead").arg(QFileInfo(instead).fileName()), [this, instead] { exportTo(instead); }},
                     {tr("Write it all the same"), [this, file] { exportTo(file, true); }}});
        return false;
    }
    exporting_ = true;
    showMessage(tr("Exporting to %1 …").arg(QFileInfo(file).fileName()));
    exports_.start([this, outcome, file]() -> Background::Then {
        const auto error = writeMesh(outcome->geometry, file.toStdString());
        return [this, error, file] {
            exporting_ = false;
            showMessage(error ? tr("Not exported. %1").arg(QString::fromStdString(error->text)) : tr("Exported to %1.").arg(QFileInfo(file).fileName()));
            Q_EMIT exported(!error);
        };
    });
    return true;
}

bool MainWindow::save() {
    // A demo stays as it is.
    const bool elsewhere = document_.file().empty() || isDemoFile(QString::fromStdString(document_.file().string()));
    return elsewhere ? saveAs() : saveTo(QString::fromStdString(document_.file().string()));
}

/// Where dialogs for files begin: beside the document; in the folder that was set while it has no file, or one of the demos'.
QString MainWindow::folderOfFiles() const {
    const QString file = QString::fromStdString(document_.file().string());
    return file.isEmpty() || isDemoFile(file) ? preferences::folder() : QFileInfo(file).absolutePath();
}

QString MainWindow::fileProposed(const QString& ending) const {
    return folderOfFiles() + QLatin1Char('/') + document_.title().toLower().replace(QLatin1Char(' '), QLatin1Char('-')) + ending;
}

bool MainWindow::saveAs() {
    QString file = QFileDialog::getSaveFileName(this, tr("Save the loom"), fileProposed(QStringLiteral(".loom")), tr("Looms (*.loom)"));
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
    const QString file =
        QFileDialog::getOpenFileName(this, tr("Open a loom, or a file to build on"), folderOfFiles(),
                                     tr("Looms, assets, meshes, drawings and pictures (*.loom *.loompack %1);;Looms (*.loom)").arg(importedPatterns()));
    if (!file.isEmpty()) openFile(file);
}

void MainWindow::openRecent() {
    auto* dialog = new RecentDialog(this);
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    connect(dialog, &RecentDialog::chosen, this, [this](const QString& file) {
        if (mayLeave()) openFile(file);
    });
    dialog->open();
}

void MainWindow::exportAsked() {
    QString file = QFileDialog::getSaveFileName(this, tr("Export the model"), fileProposed(QStringLiteral(".glb")),
                                                tr("glTF binary (*.glb);;glTF text (*.gltf);;OBJ (*.obj);;PLY (*.ply);;STL (*.stl)"));
    if (file.isEmpty()) return;
    if (QFileInfo(file).suffix().isEmpty()) file += QStringLiteral(".glb");
    exportTo(file);
}

void MainWindow::keepJournalIn(const QString& folder) {
    journalFolder_ = folder;
    offerJournals();
    followPreferences();
}

void MainWindow::followPreferences() { document_.keepJournalIn(preferences::keepsJournal() ? journalFolder_.toStdString() : std::string()); }

/// On the start page all of them; else one at a time, the newest first. What is not wanted now is offered again at the next start.
void MainWindow::offerJournals() {
    const std::vector<LeftWork> left = leftWork(journalFolder_);
    start_->showLeft(left);
    if (left.empty() || front_->currentWidget() == start_) return;
    showMessage(tr("Seed Loom ended without saving ‘%1’. %n edit(s) can be brought back.", nullptr, left.front().edits).arg(left.front().name),
                {{tr("Bring it back"), [this, journal = left.front().journal] { bringBack(journal); }},
                 {tr("Throw it away"), [this, journal = left.front().journal] { throwAway(journal); }}});
}

void MainWindow::bringBack(const std::filesystem::path& journal) {
    if (!mayLeave()) return;
    const auto kept = readJournal(journal);
    if (!kept) return showMessage(tr("The journal can't be read. %1").arg(QString::fromStdString(kept.error().text)));
    const auto rest = document_.adopt(*kept, journal);
    // Where the rest could not be written beside it, the journal itself is what keeps it.
    if (kept->unfit == 0 || rest) removeJournal(journal);
    if (kept->unfit > 0)
        showMessage(tr("Brought back as far as its edits fit: %n later one(s) did not (%1). They are kept in %2.", nullptr, int(kept->unfit))
                        .arg(QString::fromStdString(kept->problem), QString::fromStdString((rest ? *rest : journal).string())),
                    {{tr("Save"), [this] { save(); }}});
    else showMessage(tr("Brought back, to the last finished edit. Save it to keep it."), {{tr("Save"), [this] { save(); }}});
}

void MainWindow::throwAway(const std::filesystem::path& journal) {
    removeJournal(journal);
    showMessage({});
    offerJournals();
}

bool MainWindow::mayLeave() {
    if (!document_.modified()) return true;
    QMessageBox box(QMessageBox::NoIcon, tr("Unsaved changes"), tr("Save the changes to %1?").arg(document_.title()),
                    QMessageBox::Save | QMessageBox::Discard | QMessageBox::Cancel, this);
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

void MainWindow::changeEvent(QEvent* event) {
    QMainWindow::changeEvent(event);
    if (event->type() == QEvent::ActivationChange && isActiveWindow()) checkDisk();
}

void MainWindow::dragEnterEvent(QDragEnterEvent* event) {
    for (const QUrl& url : event->mimeData()->urls())
        if (url.isLocalFile() && (isLoom(url.toLocalFile()) || isPack(url.toLocalFile().toStdString()) || isImported(url.toLocalFile())))
            return event->acceptProposedAction();
}

void MainWindow::dropEvent(QDropEvent* event) {
    event->acceptProposedAction();
    QStringList files;
    for (const QUrl& url : event->mimeData()->urls())
        if (url.isLocalFile()) files << url.toLocalFile();
    // Asking must wait until the drop is over.
    QTimer::singleShot(0, this, [this, files] {
        // Of a pack it is asked first what is to become of it.
        const bool packs = std::all_of(files.begin(), files.end(), [](const QString& file) { return isPack(file.toStdString()); });
        if (packs || mayLeave()) openFiles(files);
    });
}

}  // namespace seedloom::app
