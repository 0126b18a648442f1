// SPDX-License-Identifier: MIT
// jollyrow-shots DIR DATABASE: drives the workbench on the boatyard and writes a picture of each main view.
// Used by ./jolly shot for docs/screenshots and by ./jolly demo where there is no display.
#include <QApplication>
#include <QCheckBox>
#include <QClipboard>
#include <QComboBox>
#include <QCursor>
#include <QDir>
#include <QElapsedTimer>
#include <QMouseEvent>
#include <QPainter>
#include <QStandardPaths>
#include <QThread>

#include <sqlite3.h>

#include <cstdio>

#include <QLineEdit>
#include <QPlainTextEdit>
#include <QPushButton>
#include "core/design/design_file.h"
#include "core/design/grouping.h"
#include "core/design/tier_tree.h"
#include "core/rows/snapshot.h"
#include "demo/boatyard.h"
#include "grid/filter/filter_row.h"
#include "grid/find/find_bar.h"

#include "workbench/app/look.h"
#include "workbench/app/main_window.h"
#include "workbench/app/server_shots.h"
#include "workbench/app/settings.h"
#include "workbench/app/shot_steps.h"
#include "workbench/app/start_page.h"
#include "workbench/build/build_page.h"
#include "workbench/controls/order_chips.h"
#include "workbench/popovers/face_popover.h"
#include "workbench/popovers/summary_table_popover.h"
#include "workbench/try/try_page.h"

namespace {

using namespace jollyrow;

class Shots {
  public:
    Shots(const QDir& folder, QString database) : folder_(folder), database_(std::move(database)) {}

    /// Composed faces in the form, and their editor.
    bool faces(QApplication& application, Theme theme) {
        applyLook(application, theme);
        MainWindow window;
        window.resize(1280, 800);
        window.show();
        const QString design = QFileInfo(database_).dir().filePath("yard-board.jrow");
        if (!writeDesignFile(design.toStdString(), demo::yardBoardDesign(database_.toStdString()))) return false;
        window.openPath(design);
        Grid& grid = window.buildPage().grid();
        if (!untilLoaded(grid)) return false;
        const std::int64_t today = showDay(grid, "Fri 20 Nov");
        click(grid, grid.places().cell(today + 2, "work").center());
        window.buildPage().selectColumn(QStringLiteral("status"));
        settle(400);
        window.showScreen(MainWindow::Screen::Try);
        for (int turn = 0; turn < 500 && !window.tryPage().isReady(); ++turn) settle(20);
        Grid& form = window.tryPage().grid();
        if (!untilLoaded(form)) return false;
        const std::int64_t there = showDay(form, "Fri 20 Nov");
        click(form, form.places().cell(there + 2, "work").center());
        settle(300);
        if (!grab(window, "faces")) return false;
        window.showScreen(MainWindow::Screen::Build);
        settle(200);
        window.buildPage().selectColumn(QStringLiteral("vessel"));
        window.buildPage().editors().openFace(QStringLiteral("vessel"));
        settle(200);
        window.buildPage().editors().face()->select({0, 0, 1});
        settle(300);
        if (!grab(window, "face-editor")) return false;
        window.buildPage().editors().close();
        Design own = window.document().design();
        own.looks = {{"Harbour office", "slate", {{"teal", "#8a3b12"}, {"panel", "#f1ebe4"}}, {{"teal", "#e39a6c"}}}};
        own.grid.look = "Harbour office";
        window.document().apply(own, QStringLiteral("Look"));
        settle(200);
        window.buildPage().editors().openLooks();
        settle(400);
        return grab(window, "look") && banners(application, Theme::Dark);
    }

    static void selectBlock(Grid& form, std::int64_t there) {
        form.records().setValue(form.recordAt(there + 2), "work", std::string("Renew keel bolts"));
        form.selection().setMode(SelectionMode::Cells);
        click(form, form.places().cell(there + 9, "berth.power").center());
        click(form, form.places().cell(there + 14, "berth.power").center(), Qt::ShiftModifier);
        settle(400);
    }

    static void pasteUnfit(Grid& form, std::int64_t there) {
        click(form, form.places().cell(there + 3, "work").center());
        QApplication::clipboard()->setText(
            "Fit bilge pump\tFri 20 Nov\tDone\t12,x\nStep mast\tsoon\tLost\t8.5\nRewire mast\tSat 21 Nov\tIn hand\t14");
        QKeyEvent paste(QEvent::KeyPress, Qt::Key_V, Qt::ControlModifier);
        QCoreApplication::sendEvent(&form, &paste);
        settle(300);
    }

    /// What form users do all day, in the trial, four parts of it in one picture: a day, a look-up, a block with what
    /// it comes to, a paste with what cannot be written.
    bool entering(QApplication& application, Theme theme) {
        applyLook(application, theme);
        const QString suffix = theme == Theme::Dark ? QStringLiteral("-dark") : QString();
        MainWindow window;
        window.resize(1280, 800);
        window.show();
        const QString path = QFileInfo(database_).dir().filePath("yard-jobs.jrow");
        Design design = demo::yardJobsDesign(database_.toStdString());
        design.grid.entryLine = EntryLinePlace::Bottom;
        if (!writeDesignFile(path.toStdString(), design)) return false;
        window.openPath(path);
        if (!untilLoaded(window.buildPage().grid())) return false;
        constexpr int kGap = 12, kPartWidth = (1280 - kGap) / 2, kPartHeight = (800 - kGap) / 2;
        QPixmap whole(1280, 800);
        whole.fill(look().page);
        const auto part = [&](int across, int down, int x, int y) {
            QPainter painter(&whole);
            painter.drawPixmap(across * (kPartWidth + kGap), down * (kPartHeight + kGap), pictureOf(window), x, y,
                               kPartWidth, kPartHeight);
        };
        window.showScreen(MainWindow::Screen::Try);
        for (int turn = 0; turn < 500 && !window.tryPage().isReady(); ++turn) settle(20);
        Grid& form = window.tryPage().grid();
        if (!untilLoaded(form)) return false;
        const std::int64_t there = showDay(form, "Fri 20 Nov") - 6;
        const auto edit = [&](std::int64_t line, const char* field) {
            click(form, form.places().cell(line, field).center());
            form.records().editCurrentCell();
            settle(300);
        };
        edit(there + 4, "due_on");
        if (QWidget* entry = QApplication::focusWidget()) {
            QKeyEvent open(QEvent::KeyPress, Qt::Key_Down, Qt::AltModifier);
            QCoreApplication::sendEvent(entry, &open);
        }
        settle(200);
        part(0, 0, 290, 330);
        if (QWidget* popup = QApplication::activePopupWidget()) popup->close();
        const auto escape = [&] {
            QKeyEvent press(QEvent::KeyPress, Qt::Key_Escape, Qt::NoModifier);
            if (QWidget* focus = QApplication::focusWidget()) QCoreApplication::sendEvent(focus, &press);
            settle(100);
        };
        escape();
        edit(there + 6, "vessel");
        if (QWidget* entry = QApplication::focusWidget()) {
            if (auto* line = qobject_cast<QLineEdit*>(entry)) line->selectAll();
            type(entry, "gold");
        }
        settle(400);
        part(1, 0, 16, 396);
        if (QWidget* popup = QApplication::activePopupWidget()) popup->close();
        escape();
        selectBlock(form, there);
        part(0, 1, 16, 800 - kPartHeight);
        pasteUnfit(form, there);
        part(1, 1, 290, 330);
        return savePicture(whole, folder_, "entering" + suffix);
    }

    /// Records as headings, in the dark, with the popover that makes them.
    bool banners(QApplication& application, Theme theme) {
        applyLook(application, theme);
        MainWindow window;
        window.resize(1280, 800);
        window.show();
        const QString design = QFileInfo(database_).dir().filePath("job-lines.jrow");
        if (!writeDesignFile(design.toStdString(), demo::yardLinesDesign(database_.toStdString()))) return false;
        window.openPath(design);
        Grid& grid = window.buildPage().grid();
        if (!untilLoaded(grid)) return false;
        click(grid, grid.places().cell(4, "what").center());
        window.buildPage().editors().openBanners();
        settle(400);
        return grab(window, "banners-dark");
    }

    static void typeWhatDoesNotFit(Grid& form) {
        form.selection().setCurrentCell(showDay(form, "Fri 20 Nov") - 7, 7);
        form.records().editCurrentCell();
        settle(80);
        if (QWidget* entry = QApplication::focusWidget()) {
            for (const QChar c : QStringLiteral("401,25x")) {
                QKeyEvent press(QEvent::KeyPress, 0, Qt::NoModifier, QString(c));
                QCoreApplication::sendEvent(entry, &press);
            }
            QKeyEvent enter(QEvent::KeyPress, Qt::Key_Return, Qt::NoModifier);
            QCoreApplication::sendEvent(entry, &enter);
        }
    }

    bool together(MainWindow& window, Grid& form) {
        // Together: drafts of every kind, their list, and a conflict.
        window.showScreen(MainWindow::Screen::Build);
        Design drafts = window.document().design();
        drafts.grid.saving = Saving::Together;
        drafts.grid.keepsDrafts = true;
        drafts.checks = {{"long", "hours", "hours <= 24", "More than 24 hours need a second job.", false, true, {}}};
        window.document().apply(drafts, QStringLiteral("Together"));
        window.showScreen(MainWindow::Screen::Try);
        for (int turn = 0; turn < 500 && !window.tryPage().isReady(); ++turn) settle(20);
        return untilLoaded(form) && changes(window, form);
    }

    bool run(QApplication& application, Theme theme) {
        applyLook(application, theme);
        QCursor::setPos(1279, 799);
        Settings settings;
        for (const char* name : {"vessels-by-length.jrow", "kelpie-quay.db", "yard-jobs.jrow"})
            settings.noteRecent(QFileInfo(database_).dir().filePath(name));
        settings.save();
        MainWindow window;
        window.resize(1280, 800);
        window.show();
        settle();
        const QString design = QFileInfo(database_).dir().filePath("yard-jobs.jrow");
        if (!writeDesignFile(design.toStdString(), demo::yardJobsDesign(database_.toStdString()))) return false;
        window.openPath(design);
        Grid& grid = window.buildPage().grid();
        if (!untilLoaded(grid)) return false;
        click(grid, grid.places().heading("hours").center());
        click(grid, grid.places().heading("due_on").center());
        click(grid, grid.places().heading("hours").center(), Qt::ControlModifier);
        window.buildPage().selectColumn(QString("due_on"));
        settle(400);
        const std::int64_t today = showDay(grid, "Fri 20 Nov");
        click(grid, grid.places().cell(today - 5, "work").center());
        if (!grab(window, "build")) return false;
        if (!tierDrag(window, grid)) return false;
        if (!recordLines(window, grid)) return false;
        window.document().undo();
        window.buildPage().selectColumn(QString("due_on"));
        settle();
        if (!groups(window)) return false;
        if (!rules(window, grid)) return false;
        window.openFinder();
        settle();
        Design entering = window.document().design();
        entering.grid.entryLine = EntryLinePlace::Bottom;
        window.document().apply(entering, QStringLiteral("Entry line"));
        window.showScreen(MainWindow::Screen::Try);
        for (int turn = 0; turn < 500 && !window.tryPage().isReady(); ++turn) settle(20);
        Grid& form = window.tryPage().grid();
        if (!untilLoaded(form)) return false;
        typeWhatDoesNotFit(form);
        settle();
        if (!grab(window, "try")) return false;
        return together(window, form);
    }

    bool changes(MainWindow& window, Grid& form) {
        const std::int64_t there = showDay(form, "Fri 20 Nov") - 7;
        const auto set = [&](std::int64_t line, const char* field, const Value& value) {
            form.records().setValue(form.recordAt(line), QString::fromLatin1(field), value);
        };
        set(there + 1, "work", std::string("Renew keel bolts"));
        set(there + 1, "parts", Decimal{8640, 2});
        set(there + 3, "hours", Decimal{3100, 2});
        set(there + 9, "due_on", Date{20788});
        form.records().remove({form.recordAt(there + 5)});
        settle(200);
        sqlite3* other = nullptr;
        const QString path = QString::fromStdString(form.session().sourcePath());
        sqlite3_open(path.toUtf8().constData(), &other);
        const QString key = form.recordAt(there + 9).plain("number");
        sqlite3_exec(other,
                     QStringLiteral("UPDATE jobs SET due_on = '2026-12-04', work = 'Tune rigging' WHERE number = %1")
                         .arg(key)
                         .toUtf8()
                         .constData(),
                     nullptr, nullptr, nullptr);
        sqlite3_close(other);
        form.records().save(form.recordAt(there + 9));
        settle(300);
        if (auto* show = window.tryPage().findChild<QPushButton*>(QStringLiteral("showChanges"))) show->click();
        click(form, form.places().cell(there + 1, "work").center());
        settle(300);
        click(form, form.places().cell(there + 9, "due_on").center());
        settle(100);
        for (QPushButton* link : form.findChildren<QPushButton*>())
            if (link->isVisible() && link->text() == QStringLiteral("Compare")) {
                link->click();
                break;
            }
        settle(200);
        return grab(window, "changes");
    }

  private:
    static void type(QWidget* into, const QString& text) {
        for (const QChar c : text) {
            QKeyEvent press(QEvent::KeyPress, 0, Qt::NoModifier, QString(c));
            QCoreApplication::sendEvent(into, &press);
        }
    }

    /// Filter row with a slip, pick list, builder, sort rule, find.
    bool rules(MainWindow& window, Grid& grid) {
        window.buildPage().selectColumn(std::nullopt);
        Design design = window.document().design();
        design.grid.filterRow = true;
        design.filter = {{"status <> 'Done'", "status", "≠ Done", true}, {"hours > 2", "hours", "> 2", true}};
        window.document().apply(design, QStringLiteral("Filter"));
        settle(200);
        grid.filters().focus("labour");
        settle(60);
        type(QApplication::focusWidget(), QStringLiteral("> 100 or so"));
        settle(200);
        if (!grab(window, "filter-row")) return false;
        grid.setFocus();
        if (auto* row = grid.findChild<FilterRow*>()) Q_EMIT row->typed("labour", {});
        window.document().undo();
        design.filter = {{"status <> 'Done'", "status", "≠ Done", true},
                         {"hours > 2 OR top(labour, 50)", "", "", true},
                         {"NOT (LOWER(work) LIKE '%survey%' OR due_on < booked_on)", "", "", true}};
        window.document().apply(design, QStringLiteral("Filter"));
        settle(150);
        window.buildPage().editors().openStation(Stage::Filter);
        settle(200);
        if (!grab(window, "conditions")) return false;
        window.buildPage().editors().close();
        SortDesign day;
        day.rule = "EXTRACT(MONTH FROM vessel.insured_until) * 100 + EXTRACT(DAY FROM vessel.insured_until)";
        day.title = "Insurance day, ignoring the year";
        SortDesign state;
        state.field = "status";
        state.values = {"In hand", "Waiting for parts", "Booked", "Quoted"};
        Design sorted = design;
        sorted.filter.resize(1);
        sorted.sort = {day, state};
        window.document().apply(sorted, QStringLiteral("Sort"));
        for (int turn = 0; turn < 300 && grid.isLoading(); ++turn) settle(20);
        settle(300);
        window.buildPage().editors().openStation(Stage::Sort);
        settle(250);
        if (!grab(window, "sort")) return false;
        window.buildPage().editors().close();
        grid.openFind("otter");
        settle(300);
        if (auto* bar = grid.findChild<FindBar*>()) {
            Q_EMIT bar->replaceWanted();
            type(bar->with(), QStringLiteral("Dabchick"));
        }
        settle(200);
        if (!grab(window, "find")) return false;
        if (auto* bar = grid.findChild<FindBar*>()) Q_EMIT bar->closed();
        for (int i = 0; i < 3; ++i) window.document().undo();
        settle(200);
        return true;
    }

    /// The yard's work by status and dock: lines that stay at the top, cut points, a figure explained.
    bool groups(MainWindow& window) {
        Grid& grid = window.buildPage().grid();
        const Design before = window.document().design();
        Design work = demo::yardWorkDesign(before.source.path);
        work.source = before.source;
        window.document().apply(work, QStringLiteral("Group"));
        for (int turn = 0; turn < 300 && (grid.isLoading() || !grid.snapshot()->grouped); ++turn) settle(20);
        window.buildPage().selectColumn(QString("due_on"));
        settle(300);
        grid.selection().setCurrentCell(34, 4);
        settle(200);
        grid.selection().setCurrentCell(26, 4);
        settle(200);
        if (!grab(window, "groups")) return false;
        GroupDesign hours;
        hours.key.field = "hours";
        hours.by = GroupBy::Ranges;
        hours.cuts = {"5", "10", "20"};
        work.groups = {work.groups.front(), hours};
        work.filter.pop_back();
        window.document().apply(work, QStringLiteral("Ranges"));
        settle(300);
        window.buildPage().editors().openStation(Stage::Group);
        settle(200);
        for (auto* chips : window.findChildren<OrderChips*>(QStringLiteral("levels"))) Q_EMIT chips->chosen(1);
        settle(400);
        window.buildPage().editors().close();
        window.document().undo();
        settle(300);
        grid.groups().closeAll();
        settle(100);
        grid.groups().setOpen(0, true);
        settle(100);
        click(grid, grid.places().figure("hours_sum", 1).center() + QPoint(20, 0));
        settle(400);
        if (!grab(window, "figure")) return false;
        window.buildPage().editors().close();
        Design few = window.document().design();
        std::erase_if(few.summaries,
                      [](const SummaryDesign& s) { return s.name != "count" && s.name != "labour_sum"; });
        window.document().apply(few, QStringLiteral("Few figures"));
        settle(300);
        window.buildPage().editors().openSummaryTable();
        settle(300);
        if (auto* table = window.findChild<SummaryTablePopover*>()) {
            table->findChild<QCheckBox*>(QStringLiteral("across0"))->click();
            settle(500);
            if (!grab(window, "cross-tab")) return false;
        }
        window.buildPage().editors().close();
        window.document().apply(before, QStringLiteral("Back"));
        settle(300);
        return true;
    }

    /// A heading on its way under a tier, another tier folded.
    bool tierDrag(MainWindow& window, Grid& grid) {
        grid.column("work").setWidth(170);
        grid.tier("Vessel").setFolded(true);
        settle(150);
        QWidget* viewport = grid.viewport();
        const QPoint from = grid.places().heading("status").center(),
                     to = grid.places().tier("Cost").center() + QPoint(30, 4);
        const auto send = [&](QEvent::Type type, QPoint at, Qt::MouseButtons held) {
            QMouseEvent event(type, at, viewport->mapToGlobal(at),
                              type == QEvent::MouseMove ? Qt::NoButton : Qt::LeftButton, held, Qt::NoModifier);
            QCoreApplication::sendEvent(viewport, &event);
        };
        send(QEvent::MouseButtonPress, from, Qt::LeftButton);
        for (int step = 1; step <= 6; ++step) send(QEvent::MouseMove, from + (to - from) * step / 6, Qt::LeftButton);
        settle(150);
        const bool done = grab(window, "tier-drag");
        QKeyEvent escape(QEvent::KeyPress, Qt::Key_Escape, Qt::NoModifier);
        QCoreApplication::sendEvent(&grid, &escape);
        send(QEvent::MouseButtonRelease, to, Qt::NoButton);
        grid.setDesign(window.document().design());
        settle(150);
        return done;
    }

    /// The same records on two lines: the state beneath the work, owner and kind beneath the vessel.
    bool recordLines(MainWindow& window, Grid& grid) {
        Design design = window.document().design();
        const auto add = [&design](const char* field, const char* heading, const char* under, int span) {
            ColumnDesign column;
            column.field = field;
            column.heading = heading;
            column.span = span;
            design.columns.push_back(column);
            putUnder(design, field, under);
        };
        putUnder(design, "status", "work");
        design.column("status")->span = 2;
        add("vessel.owner.name", "Owner", "vessel", 1);
        add("vessel.kind", "Kind", "berth", 2);
        window.document().apply(design, QStringLiteral("Lay records over two lines"));
        window.buildPage().selectTier(QStringLiteral("Job"));
        for (int turn = 0; turn < 300 && grid.isLoading(); ++turn) settle(20);
        settle(400);
        showDay(grid, "Fri 20 Nov");
        return grab(window, "record-lines");
    }

    bool grab(MainWindow& window, const QString& name) { return savePicture(pictureOf(window), folder_, name); }
    QDir folder_;
    QString database_;
};

}  // namespace

int main(int argc, char** argv) {
    if (argc != 3 && argc != 4) {
        std::fputs(
            "Usage: jollyrow-shots DIR DATABASE [faces|entering|entering-dark]\n       jollyrow-shots DIR ADDRESS "
            "server\n",
            stderr);
        return 2;
    }
    qputenv("QT_QPA_PLATFORM", "offscreen");
    QStandardPaths::setTestModeEnabled(true);  // leaves the user's settings alone
    QApplication application(argc, argv);
    QApplication::setApplicationName("jollyrow-shots");
    QDir folder(QString::fromLocal8Bit(argv[1]));
    folder.mkpath(".");
    Shots shots(folder, QFileInfo(QString::fromLocal8Bit(argv[2])).absoluteFilePath());
    const QByteArray part = argc == 4 ? argv[3] : "";
    if (part == "server") return serverShots(application, folder, QString::fromLocal8Bit(argv[2])) ? 0 : 1;
    if (part == "entering") return shots.entering(application, Theme::Light) ? 0 : 1;
    if (part == "entering-dark") return shots.entering(application, Theme::Dark) ? 0 : 1;
    if (argc == 4) return shots.faces(application, Theme::Light) ? 0 : 1;
    return shots.run(application, Theme::Light) && shots.faces(application, Theme::Light) &&
                   shots.entering(application, Theme::Light)
               ? 0
               : 1;
}
