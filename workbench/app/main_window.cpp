// SPDX-License-Identifier: MIT
#include "workbench/app/main_window.h"
#include "grid/api/load_line.h"

#include <QApplication>
#include <QCloseEvent>
#include <QDir>
#include <QFileDialog>
#include <QFileInfo>
#include <QInputDialog>
#include <QMenu>
#include <QMessageBox>
#include <QMimeData>
#include <QScreen>
#include <QStackedWidget>
#include <QStandardPaths>
#include <QTimer>
#include <QVBoxLayout>

#include "core/base/source_address.h"
#include "core/design/design_file.h"
#include "core/session/session.h"
#include "core/sources/source.h"
#include "demo/boatyard.h"
#include "workbench/app/actions.h"
#include "workbench/app/command_row.h"
#include "workbench/app/look.h"
#include "workbench/app/patiently.h"
#include "workbench/app/server_access.h"
#include "workbench/app/start_page.h"
#include "workbench/app/status_line.h"
#include "workbench/app/unsaved_edits.h"
#include "workbench/build/build_page.h"
#include "workbench/controls/controls.h"
#include "workbench/popovers/findings_popover.h"
#include "workbench/try/try_page.h"

namespace jollyrow {

MainWindow::MainWindow(QWidget* parent)
    : QWidget(parent),
      settings_(Settings::load()),
      actions_(new Actions(this)),
      commandRow_(new CommandRow(this)),
      pages_(new QStackedWidget(this)),
      start_(new StartPage(this)),
      build_(new BuildPage(document_, this)),
      try_(new TryPage(this)),
      status_(new StatusLine(this)),
      servers_(new ServerAccess(this)) {
    setAcceptDrops(true);
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(0);
    layout->addWidget(commandRow_);
    layout->addWidget(pages_, 1);
    layout->addWidget(status_);
    pages_->addWidget(start_);
    pages_->addWidget(build_);
    pages_->addWidget(try_);
    if (settings_.geometry.isEmpty() || !restoreGeometry(settings_.geometry)) resize(1280, 800);
    build_->setPanelWidths(settings_.panels);
    connect(servers_, &ServerAccess::said, this, &MainWindow::say);
    connectStart();
    connectBuild();
    addActions();
    showStart();
}

void MainWindow::connectStart() {
    connect(commandRow_, &CommandRow::screenChosen, this,
            [this](int index) { showScreen(index == 0 ? Screen::Build : Screen::Try); });
    connect(commandRow_, &CommandRow::undoClicked, &document_, &Document::undo);
    connect(commandRow_, &CommandRow::redoClicked, &document_, &Document::redo);
    connect(commandRow_, &CommandRow::finderClicked, this, &MainWindow::openFinder);
    connect(commandRow_, &CommandRow::saveClicked, this, &MainWindow::save);
    connect(commandRow_, &CommandRow::homeClicked, this, &MainWindow::showStart);
    connect(start_, &StartPage::openDatabase, this, [this] {
        const QString path = QFileDialog::getOpenFileName(
            this, tr("Open a database"), {}, tr("SQLite databases (*.db *.sqlite *.sqlite3);;All files (*)"));
        if (!path.isEmpty()) openPath(path);
    });
    connect(start_, &StartPage::openDesign, this, [this] {
        const QString path = QFileDialog::getOpenFileName(this, tr("Open a design"), {}, tr("Designs (*.jrow)"));
        if (!path.isEmpty()) openPath(path);
    });
    connect(start_, &StartPage::openServer, this, [this] { openServer(); });
    connect(start_, &StartPage::openDemo, this, &MainWindow::openDemo);
    connect(start_, &StartPage::openPath, this, &MainWindow::openPath);
}

void MainWindow::connectBuild() {
    connect(build_, &BuildPage::openWanted, this, &MainWindow::openPath);
    connect(&document_, &Document::stateChanged, this, [this] {
        commandRow_->showState(document_);
        setWindowTitle(
            document_.isOpen()
                ? tr("%1%2 – Jolly Row").arg(document_.title(), document_.isDirty() ? QStringLiteral("*") : QString())
                : tr("Jolly Row"));
        refreshStatus();
    });
    connect(&build_->grid(), &Grid::snapshotChanged, this, &MainWindow::refreshStatus);
    connect(&build_->grid(), &Grid::selectionChanged, this, &MainWindow::refreshStatus);
    connect(&build_->grid(), &Grid::loadProgressed, this, [this](const LoadProgress& progress) {
        const double share = progressShare(progress);
        QString text = tr("%1 records").arg(progressWords(progress));
        if (share >= 0) text += tr(", %1 %").arg(static_cast<int>(share * 100));
        if (progress.milliseconds > 0)
            text += tr(", %1 a second").arg(grouped(static_cast<qint64>(progress.rowsPerSecond())));
        status_->setProgress(progress.rows == 0 ? tr("Reading the records…") : text, share);
    });
    connect(&build_->grid(), &Grid::loadEnded, this, [this](const QString& error) {
        status_->endProgress();
        if (!error.isEmpty()) say(error, true);
        refreshStatus();
    });
    connect(&build_->grid(), &Grid::editAnswered, this,
            [this](bool saved, const QString& message) { saved ? say(tr("Saved"), false) : say(message, true); });
    connect(build_, &BuildPage::said, this, &MainWindow::say);
    connect(try_, &TryPage::kept, this, [this] { build_->grid().reload(); });
    connect(try_, &TryPage::backToBuild, this, [this] { showScreen(Screen::Build); });
    connect(status_, &StatusLine::cancelClicked, this, [this] { build_->grid().cancelLoad(); });
    connect(status_, &StatusLine::findingsClicked, this, &MainWindow::showFindings);
}

bool MainWindow::isBuilding() const { return document_.isOpen() && pages_->currentWidget() == build_; }

void MainWindow::addActions() {
    addDocumentActions();
    addStationActions();
    addFilterActions();
    addColumnActions();
    addRecordActions();
    addWindowActions();
}

void MainWindow::addDocumentActions() {
    const auto open = [this] { return document_.isOpen() && pages_->currentWidget() != start_; };
    const auto building = [this] { return isBuilding(); };
    actions_->add({tr("Save the design"), QKeySequence::Save, [this] { save(); }, open});
    actions_->add(
        {tr("Save the design under another name…"), QKeySequence(tr("Ctrl+Shift+S")), [this] { saveAs(); }, open});
    actions_->add({tr("Open a design or database…"),
                   QKeySequence::Open,
                   [this] {
                       const QString path = QFileDialog::getOpenFileName(
                           this, tr("Open"), {},
                           tr("Designs and databases (*.jrow *.db *.sqlite *.sqlite3);;All files (*)"));
                       if (!path.isEmpty()) openPath(path);
                   },
                   {}});
    actions_->add({tr("Open a database on a server…"), {}, [this] { openServer(); }, {}});
    actions_->add({tr("Open the boatyard demo"), {}, [this] { openDemo(); }, {}});
    actions_->add({tr("Go to the start screen"), QKeySequence(tr("Alt+Home")), [this] { showStart(); }, {}});
    actions_->add({tr("Undo"), QKeySequence::Undo, [this] { document_.undo(); },
                   [this, building] { return building() && !document_.undoLabel().isEmpty(); }});
    actions_->add({tr("Redo"), QKeySequence(tr("Ctrl+Shift+Z")), [this] { document_.redo(); },
                   [this, building] { return building() && !document_.redoLabel().isEmpty(); }});
    actions_->add({tr("Build"), QKeySequence(tr("Ctrl+1")), [this] { showScreen(Screen::Build); },
                   [this] { return document_.isOpen(); }});
    actions_->add({tr("Try"), QKeySequence(tr("Ctrl+2")), [this] { showScreen(Screen::Try); },
                   [this] { return document_.isOpen(); }});
}

void MainWindow::addStationActions() {
    const auto building = [this] { return isBuilding(); };
    actions_->add({tr("Choose the source"), QKeySequence(tr("Ctrl+Shift+O")),
                   [this] { build_->editors().openStation(Stage::Source); }, building});
    actions_->add({tr("Set what is filtered"), QKeySequence(tr("Ctrl+Shift+I")),
                   [this] { build_->editors().openStation(Stage::Filter); }, building});
    actions_->add({tr("Set the sort order"), QKeySequence(tr("Ctrl+Shift+R")),
                   [this] { build_->editors().openStation(Stage::Sort); }, building});
    actions_->add({tr("Edit the groups"), {}, [this] { build_->editors().openStation(Stage::Group); }, building});
    actions_->add(
        {tr("Edit the summaries"), {}, [this] { build_->editors().openStation(Stage::Summaries); }, building});
    actions_->add({tr("Show the summary table"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_Y),
                   [this] { build_->editors().openSummaryTable(); }, building});
    actions_->add({tr("Open all groups"), {}, [this] { build_->grid().groups().openAll(); }, building});
    actions_->add({tr("Close all groups"), {}, [this] { build_->grid().groups().closeAll(); }, building});
    actions_->add(
        {tr("Set the parameters above the grid"), {}, [this] { build_->editors().openParameters(); }, building});
    actions_->add({tr("Style cells and records by rules"), {}, [this] { build_->editors().openStyles(); }, building});
    actions_->add({tr("Choose the look of the grid"), {}, [this] { build_->editors().openLooks(); }, building});
    actions_->add({tr("Draw records as banner rows"), {}, [this] { build_->editors().openBanners(); }, building});
    actions_->add({tr("Check what is entered"), {}, [this] { build_->editors().openChecks(); }, building});
    actions_->add({tr("Set own operators"), {}, [this] { build_->editors().openOperators(); }, building});
    actions_->add({tr("Add a computed column"), QKeySequence(tr("Ctrl+Shift+K")),
                   [this] { build_->editors().openComputed(std::nullopt); }, building});
    actions_->add({tr("Settings of the whole grid"), QKeySequence(tr("Ctrl+G")),
                   [this] { build_->selectColumn(std::nullopt); }, building});
}

void MainWindow::addFilterActions() {
    const auto building = [this] { return isBuilding(); };
    const auto onColumn = [this] { return isBuilding() && build_->selectedColumn().has_value(); };
    actions_->add({tr("Show or hide the filter row"),
                   {},
                   [this] {
                       Design next = document_.design();
                       next.grid.filterRow = !next.grid.filterRow;
                       document_.apply(next,
                                       next.grid.filterRow ? tr("Show the filter row") : tr("Hide the filter row"));
                   },
                   building});
    actions_->add({tr("Filter the selected column in its row"),
                   {},
                   [this] { build_->grid().filters().focus(*build_->selectedColumn()); },
                   onColumn});
    actions_->add({tr("Pick values of the selected column"),
                   {},
                   [this] { build_->grid().filters().openPickList(*build_->selectedColumn()); },
                   onColumn});
    actions_->add({tr("Clear all filters"),
                   {},
                   [this] { build_->grid().filters().clear(); },
                   [this, building] { return building() && !document_.design().filter.empty(); }});
    actions_->add({tr("Find records"), QKeySequence::Find, [this] { build_->grid().openFind(); }, building});
}

void MainWindow::addColumnActions() {
    const auto building = [this] { return isBuilding(); };
    const auto onColumn = [this] { return isBuilding() && build_->selectedColumn().has_value(); };
    const auto onAnything = [this] { return isBuilding() && (build_->selectedColumn() || build_->selectedTier()); };
    actions_->add({tr("Group by the selected column"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_G),
                   [this] { build_->groupByColumn(*build_->selectedColumn()); }, onColumn});
    actions_->add({tr("Sum up the selected column"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_U),
                   [this] { build_->sumUpColumn(*build_->selectedColumn()); }, onColumn});
    actions_->add(
        {tr("Sort up by the selected column"), {}, [this] { build_->sortSelected(Direction::Ascending); }, onColumn});
    actions_->add({tr("Sort down by the selected column"),
                   {},
                   [this] { build_->sortSelected(Direction::Descending); },
                   onColumn});
    actions_->add({tr("Change the rule of the selected column"),
                   {},
                   [this] { build_->editors().openComputed(build_->selectedColumn()); },
                   [this, onColumn] {
                       const ColumnDesign* column =
                           onColumn() ? document_.design().column(build_->selectedColumn()->toStdString()) : nullptr;
                       return column && !column->rule.empty();
                   }});
    actions_->add({tr("Compose the face of the selected column"), QKeySequence(tr("Ctrl+Shift+F")),
                   [this] { build_->editors().openFace(*build_->selectedColumn()); }, onColumn});
    actions_->add({tr("New heading over what is selected"), QKeySequence(tr("Ctrl+T")),
                   [this] { build_->tierOverSelected(); }, onAnything});
    actions_->add({tr("Show, hide and find columns"), QKeySequence(tr("Ctrl+Shift+C")),
                   [this] { build_->grid().designer().openColumnList(); }, building});
    actions_->add({tr("Fit all widths exactly"), {}, [this] { build_->grid().designer().fitAll(); }, building});
    actions_->add({tr("Move the selected column left"), QKeySequence(tr("Alt+Shift+Left")),
                   [this] { build_->moveSelected(-1); }, onColumn});
    actions_->add({tr("Move the selected column right"), QKeySequence(tr("Alt+Shift+Right")),
                   [this] { build_->moveSelected(1); }, onColumn});
    actions_->add({tr("Show or hide the selected column"), QKeySequence(tr("Ctrl+H")),
                   [this] { build_->toggleShown(*build_->selectedColumn()); }, onColumn});
}

void MainWindow::addRecordActions() {
    const auto building = [this] { return isBuilding(); };
    actions_->add({tr("Put edited records back in order"),
                   {},
                   [this] { build_->grid().session().view().resort(); },
                   [this, building] { return building() && build_->grid().session().view().orderIsStale(); }});
    actions_->add(
        {tr("Read all records again"), QKeySequence(tr("F5")), [this] { build_->grid().reload(); }, building});
    actions_->add({tr("Stop loading"),
                   {},
                   [this] { build_->grid().cancelLoad(); },
                   [this, building] { return building() && build_->grid().isLoading(); }});
    const std::pair<QString, SelectionMode> modes[] = {{tr("Select one record at a time"), SelectionMode::OneRow},
                                                       {tr("Select records"), SelectionMode::Rows},
                                                       {tr("Select cells"), SelectionMode::Cells},
                                                       {tr("Select columns"), SelectionMode::Columns},
                                                       {tr("Select nothing"), SelectionMode::None}};
    for (const auto& [words, mode] : modes)
        actions_->add({words,
                       {},
                       [this, mode = mode] {
                           Design next = document_.design();
                           next.grid.selection = mode;
                           document_.apply(next, tr("What can be selected"));
                       },
                       building});
    actions_->add({tr("Go to a line"), {}, [this] { build_->grid().selection().openGoTo(); }, building});
    actions_->add({tr("Back to the record before"), {}, [this] { build_->grid().selection().goBack(); }, building});
    actions_->add(
        {tr("Forward to the record after"), {}, [this] { build_->grid().selection().goForward(); }, building});
}

void MainWindow::addWindowActions() {
    const auto building = [this] { return isBuilding(); };
    actions_->add({tr("Show the findings"), {}, [this] { showFindings(); }, building});
    actions_->add(
        {tr("Change between light and dark"), QKeySequence(tr("Ctrl+Shift+L")), [this] { toggleTheme(); }, {}});
    actions_->add({tr("Find an action"), QKeySequence(tr("Ctrl+K")), [this] { openFinder(); }, {}});
    if (!guidePages().empty())
        actions_->add({tr("Open the guide"), QKeySequence::HelpContents, [this] { openGuide({}); }, {}});
    for (const GuidePage& page : guidePages())
        if (page.file != QLatin1String("README.md"))
            actions_->add({tr("Guide: %1").arg(page.title), {}, [this, page] { openGuide(page.file); }, {}});
    actions_->add({tr("Quit"), QKeySequence::Quit, [this] { close(); }, {}});
}

void MainWindow::openGuide(const QString& file) {
    if (!guide_) {
        guide_ = new GuideWindow(this);
        guide_->setAttribute(Qt::WA_DeleteOnClose);
    }
    guide_->open(file);
}

void MainWindow::openFinder() {
    if (finder_) finder_->close();
    auto* finder = new ActionFinder(this, actions_->all());
    finder_ = finder;
    QRect anchor(width() / 2 - 100, 0, 200, 30);
    if (commandRow_->isVisible()) {
        anchor = commandRow_->finderRect();
        anchor.moveTopLeft(commandRow_->mapTo(this, anchor.topLeft()));
    }
    finder->openUnder(anchor, 420);
}

/// What is behind a path that was opened: itself, or what a design is bound to.
static std::string addressBehind(const QString& path) {
    if (!path.endsWith(QLatin1String(".jrow"))) return path.toStdString();
    const auto design = readDesignFile(path.toStdString());
    return design ? design->design.source.path : std::string();
}

void MainWindow::report(const Result<void>& result, const QString& path) {
    if (!result && result.error().code == ErrorCode::NeedsPassword)
        return servers_->unlock(addressBehind(path), result.error().message, serverAnchor(),
                                [this, path](const QString&) { openPath(path); });
    if (!result) {
        const QString message = QString::fromStdString(result.error().message);
        pages_->currentWidget() == start_ ? start_->showProblem(message) : say(message, true);
        return;
    }
    start_->showProblem({});
    settings_.noteRecent(path);
    settings_.save();
    showScreen(Screen::Build);
}

void MainWindow::openPath(const QString& path) {
    if (!mayLeave()) return;
    if (path.endsWith(QLatin1String(".jrow"))) return report(document_.openDesign(path), path);
    chooseTable(path);
}

QRect MainWindow::serverAnchor() const {
    const QRect choice = start_->serverPlace();
    return pages_->currentWidget() == start_ ? QRect(start_->mapTo(this, choice.topLeft()), choice.size())
                                             : QRect(width() / 2, commandRow_->height(), 1, 1);
}

void MainWindow::openServer() {
    if (mayLeave()) servers_->ask(serverAnchor(), [this](const QString& address) { chooseTable(address); });
}

void MainWindow::chooseTable(const QString& path) {
    auto source = openSource(path.toStdString());
    if (!source) return report(source.error(), path);
    auto tables = tablesOf(**source, path);
    if (!tables) return report(tables.error(), path);
    if (tables->empty())
        return report(Error{ErrorCode::NotFound, path.toStdString() + " has no tables yet. Choose another database."},
                      path);
    // The largest table is the likeliest; the Source station changes it with one click.
    const auto largest = std::max_element(
        tables->begin(), tables->end(),
        [](const TableSummary& a, const TableSummary& b) { return a.aboutRows.value_or(0) < b.aboutRows.value_or(0); });
    report(document_.openDatabase(path, QString::fromStdString(largest->name)), path);
    if (document_.isOpen() && tables->size() > 1 && pages_->currentWidget() == build_)
        build_->editors().openStation(Stage::Source);
}

void MainWindow::openDemo() {
    if (!mayLeave()) return;
    const QDir folder(QStandardPaths::writableLocation(QStandardPaths::AppDataLocation));
    if (!folder.mkpath(QStringLiteral(".")))
        return start_->showProblem(tr("The folder %1 cannot be made.").arg(folder.path()));
    const QString database = folder.filePath(QStringLiteral("kelpie-quay.db")),
                  design = folder.filePath(QStringLiteral("yard-work.jrow"));
    if (!QFileInfo::exists(database))
        if (auto made = patiently<bool>(tr("Making the boatyard"),
                                        [&](const Cancel& cancel) -> Result<bool> {
                                            auto done = demo::makeBoatyard(database.toStdString(), {}, {}, cancel);
                                            return done ? Result<bool>(true) : done.error();
                                        });
            !made)
            return report(made.error(), database);
    if (!QFileInfo::exists(design))
        if (auto written = writeDesignFile(design.toStdString(), demo::yardWorkDesign("kelpie-quay.db")); !written)
            return report(written, design);
    report(document_.openDesign(design), design);
}

bool MainWindow::save() {
    if (document_.designPath().isEmpty()) return saveAs();
    if (auto saved = document_.save(document_.designPath()); !saved) {
        say(QString::fromStdString(saved.error().message), true);
        return false;
    }
    say(tr("Design saved"), false);
    return true;
}

bool MainWindow::saveAs() {
    // A server's designs go where one works.
    const QFileInfo database(isServerAddress(document_.databasePath().toStdString())
                                 ? QDir::current().filePath(QStringLiteral("design"))
                                 : document_.databasePath());
    const QString proposed =
        document_.designPath().isEmpty()
            ? database.dir().filePath(document_.title().toLower().replace(u' ', u'-') + QStringLiteral(".jrow"))
            : document_.designPath();
    QString path = QFileDialog::getSaveFileName(this, tr("Save the design"), proposed, tr("Designs (*.jrow)"));
    if (path.isEmpty()) return false;
    if (!path.endsWith(QLatin1String(".jrow"))) path += QLatin1String(".jrow");
    if (auto saved = document_.save(path); !saved) {
        say(QString::fromStdString(saved.error().message), true);
        return false;
    }
    settings_.noteRecent(path);
    settings_.save();
    say(tr("Design saved"), false);
    return true;
}

bool MainWindow::mayLeave() {
    if (document_.isOpen() && !mayDropEdits(this, build_->grid(), tr("Unsaved edits"))) return false;
    if (!document_.isDirty()) return true;
    if (document_.undoLabel().isEmpty() && document_.designPath().isEmpty())
        return true;  // the design a table gets by itself is no loss
    QMessageBox box(QMessageBox::NoIcon, tr("Unsaved changes"),
                    tr("Save the changes to \"%1\"?").arg(document_.title()),
                    QMessageBox::Save | QMessageBox::Discard | QMessageBox::Cancel, this);
    box.setInformativeText(tr("Without saving they are lost."));
    box.setDefaultButton(QMessageBox::Save);
    switch (box.exec()) {
        case QMessageBox::Save: return save();
        case QMessageBox::Discard: return true;
        default: return false;
    }
}

void MainWindow::showScreen(Screen screen) {
    if (!document_.isOpen()) return;
    build_->editors().close();
    if (finder_) finder_->close();
    if (screen == Screen::Try && isServerAddress(document_.databasePath().toStdString())) {
        commandRow_->setScreen(0);
        return say(tr("A trial works on a copy, and a server's database is not copied; Build saves into it."), true);
    }
    commandRow_->setScreen(screen == Screen::Build ? 0 : 1);
    if (screen == Screen::Try) {
        if (pages_->currentWidget() != try_)
            try_->begin(document_.design(), document_.title(), document_.databasePath());
        pages_->setCurrentWidget(try_);
    } else {
        if (pages_->currentWidget() == try_) try_->end();
        pages_->setCurrentWidget(build_);
        build_->grid().setFocus();
    }
    // In the trial nothing of the workbench stands around the form but its ribbon.
    commandRow_->setVisible(screen == Screen::Build);
    status_->setVisible(screen == Screen::Build);
    commandRow_->showState(document_);
    refreshStatus();
}

void MainWindow::showStart() {
    if (pages_->currentWidget() == try_) try_->end();
    start_->setRecent(settings_.recent);
    pages_->setCurrentWidget(start_);
    commandRow_->hide();
    status_->hide();
}

void MainWindow::refreshStatus() {
    if (!document_.isOpen()) return;
    const Grid& grid = build_->grid();
    std::size_t findings = document_.fileFindings().size() + grid.findings().size();
    status_->setFindings(static_cast<int>(findings));
    status_->setUnsaved(grid.records().unsaved());
    status_->setSelection(grid.selection().count() > 1 ? tr("%1 selected").arg(grouped(grid.selection().count()))
                                                       : QString());
    if (grid.snapshot()) {
        const auto bytes = static_cast<double>(grid.snapshot()->table->byteSize());
        status_->setMemory(tr("%1 rows in memory   %2 MB")
                               .arg(grouped(static_cast<qint64>(grid.snapshot()->table->rows)))
                               .arg(bytes / 1e6, 0, 'f', 1));
    }
}

void MainWindow::say(const QString& text, bool isError) { status_->say(text, isError); }

void MainWindow::showFindings() {
    std::vector<Finding> findings = document_.fileFindings();
    const std::vector<Finding> live = build_->grid().findings();
    findings.insert(findings.end(), live.begin(), live.end());
    auto* card = new FindingsPopover(this, findings);
    connect(card, &FindingsPopover::mendWanted, build_, &BuildPage::mendFinding);
    card->openOver(status_->mapTo(this, QPoint(0, 0)).y());
}

void MainWindow::toggleTheme() {
    settings_.theme = currentTheme() == Theme::Dark ? Theme::Light : Theme::Dark;
    settings_.save();
    applyLook(*qApp, settings_.theme);
    commandRow_->showState(document_);
    start_->setRecent(settings_.recent);
    refreshStatus();
    update();
}

void MainWindow::fitToScreen() {
    const QScreen* screen = this->screen();
    if (!screen) return;
    // The frame around the window is not known before it is shown; some room is left for it.
    constexpr int kFrame = 40;
    const QRect room = screen->availableGeometry();
    const QSize most = room.size() - QSize(0, kFrame);
    const QSize size = this->size().boundedTo(most);
    if (size != this->size()) resize(size);
    if (!room.contains(geometry()))
        move(std::clamp(x(), room.left(), std::max(room.left(), room.right() - size.width())),
             std::clamp(y(), room.top(), std::max(room.top(), room.bottom() - size.height() - kFrame)));
}

void MainWindow::closeEvent(QCloseEvent* event) {
    if (!mayLeave()) return event->ignore();
    settings_.geometry = saveGeometry();
    settings_.panels = build_->panelWidths();
    settings_.save();
    event->accept();
}

void MainWindow::dragEnterEvent(QDragEnterEvent* event) {
    if (event->mimeData()->hasUrls()) event->acceptProposedAction();
}

void MainWindow::dropEvent(QDropEvent* event) {
    const QList<QUrl> urls = event->mimeData()->urls();
    if (!urls.isEmpty() && urls.first().isLocalFile()) openPath(urls.first().toLocalFile());
}

}  // namespace jollyrow
