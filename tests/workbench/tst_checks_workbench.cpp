// SPDX-License-Identifier: MIT
// Checks and saving set in the workbench with real events, kept in the file, and at work in the trial: its record
// sheet, its list of changes, its new record.
#include <QCheckBox>
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QPlainTextEdit>
#include <QPushButton>
#include <QToolButton>

#include <sqlite3.h>

#include "core/design/design_file.h"
#include "demo/boatyard.h"
#include "grid/api/grid.h"
#include "grid/records/change_list.h"
#include "grid/sheet/field_box.h"
#include "grid/sheet/record_sheet.h"
#include "tests/stored_text.h"
#include "tests/workbench/open_window.h"
#include "workbench/build/build_page.h"
#include "workbench/controls/segmented_switch.h"
#include "workbench/fittings/fittings.h"
#include "workbench/popovers/checks_popover.h"
#include "workbench/try/try_page.h"

using namespace jollyrow;

class ChecksWorkbenchTest : public QObject {
    Q_OBJECT
    QTemporaryDir folder_;
    QString database_, design_;
    std::unique_ptr<MainWindow> window_;

    BuildPage& build() { return window_->buildPage(); }
    Grid& grid() { return build().grid(); }
    const Design& design() { return window_->document().design(); }
    template <class Widget>
    Widget* named(QWidget* in, const char* name) {
        for (Widget* widget : in->findChildren<Widget*>())
            if (widget->accessibleName() == QString::fromUtf8(name) && widget->isVisible()) return widget;
        return nullptr;
    }
    QPushButton* button(QWidget* in, const QString& words) {
        for (QPushButton* one : in->findChildren<QPushButton*>())
            if (one->text() == words && one->isVisible()) return one;
        return nullptr;
    }
    static bool saysSomewhere(const QWidget& in, const char* words) {
        const auto labels = in.findChildren<QLabel*>();
        return std::any_of(labels.begin(), labels.end(), [&](const QLabel* l) { return l->text().contains(words); });
    }
    /// What stands in the database itself.
    QString stored(const char* sql) { return test::storedText(database_, sql); }

  private Q_SLOTS:
    void initTestCase() {
        test::prepareWorkbench();
        database_ = folder_.filePath("kelpie-quay.db");
        design_ = folder_.filePath("yard-jobs.jrow");
        demo::BoatyardSize size;
        size.jobs = 600;
        QVERIFY(demo::makeBoatyard(database_.toStdString(), size, {}).ok());
    }
    void init() {
        QVERIFY(writeDesignFile(design_.toStdString(), demo::yardJobsDesign("kelpie-quay.db")).ok());
        window_ = test::shownWindow();
        QVERIFY(window_);
        window_->activateWindow();
        window_->openPath(design_);
        QTRY_VERIFY(grid().snapshot() && grid().snapshot()->table->complete && !grid().isLoading());
    }
    void cleanup() { window_.reset(); }

    void aCheckIsMadeCountedAndKept() {
        build().selectColumn(std::nullopt);
        QVERIFY(button(&build().fittings(), "Checks…"));
        button(&build().fittings(), "Checks…")->click();
        auto* checks = window_->findChild<ChecksPopover*>();
        QTRY_VERIFY(checks && checks->isVisible());
        checks->findChild<QPushButton*>("addCheck")->click();
        QTRY_COMPARE(design().checks.size(), std::size_t{1});
        QTRY_VERIFY(named<QPlainTextEdit>(checks, "Rule of check 1"));
        auto* rule = named<QPlainTextEdit>(checks, "Rule of check 1");
        rule->selectAll();
        QTest::keyClicks(rule, "hours < 12");
        QTRY_COMPARE(design().checks[0].rule, std::string("hours < 12"));
        QTest::keyClicks(named<QLineEdit>(checks, "What check 1 says"), "{hours} hours are too many.");
        QTRY_COMPARE(design().checks[0].message, std::string("{hours} hours are too many."));
        QVERIFY(grid().findings().empty());
        // Those that break it today are counted and shown.
        auto* show = checks->findChild<QPushButton*>("showFailing0");
        QTRY_VERIFY(show->isEnabled());
        show->click();
        QTRY_VERIFY(grid().snapshot()->recordCount() > 0 && grid().snapshot()->recordCount() < 600);
        for (std::int64_t i = 0; i < grid().snapshot()->recordCount(); i += 7) {
            const auto hours =
                grid().snapshot()->value(grid().snapshot()->record(i), *grid().session().schema().find("hours"));
            QVERIFY(!isEmpty(hours) && exactOf(hours)->mantissa >= 120);
        }
        window_->document().undo();
        QTRY_COMPARE(grid().snapshot()->recordCount(), std::int64_t{600});
        QVERIFY(writeDesignFile(design_.toStdString(), design()).ok());
        QVERIFY(readDesignFile(design_.toStdString())->design.checks == design().checks);
        QTest::mouseClick(named<QToolButton>(checks, "Take check 1 away"), Qt::LeftButton);
        QTRY_VERIFY(design().checks.empty());
        window_->document().undo();
        QTRY_COMPARE(design().checks.size(), std::size_t{1});
    }

    void whenEditsAreSavedIsSet() {
        build().selectColumn(std::nullopt);
        auto* saving = build().fittings().findChild<SegmentedSwitch*>("saving");
        QVERIFY(saving);
        Q_EMIT saving->chosen(2);
        QTRY_VERIFY(design().grid.saving == Saving::Together);
        for (QCheckBox* box : build().fittings().findChildren<QCheckBox*>())
            if (box->text() == QString("Records may be deleted"))
                QTest::mouseClick(box, Qt::LeftButton, {}, {6, box->height() / 2});
        QTRY_VERIFY(!design().grid.canDelete);
        window_->document().undo();
        window_->document().undo();
        QTRY_VERIFY(design().grid.saving == Saving::EachCell && design().grid.canDelete);
    }

    void whatWasNotSavedIsOfferedAgain() {
        Design next = design();
        next.grid.saving = Saving::Together;
        window_->document().apply(next, "Together");
        const Record record = grid().recordAt(4);
        const QString key = record.plain("number");
        QVERIFY(grid().records().setValue(record, "work", std::string("Typed and not saved")));
        QTRY_VERIFY(grid().session().drafts().isKept());
        window_.reset();  // without asking, as a crash does
        window_ = test::shownWindow();
        window_->openPath(design_);
        auto* bar = build().findChild<QWidget*>("draftsBar");
        QVERIFY(bar);
        QTRY_VERIFY(bar->isVisible());
        bar->findChild<QPushButton*>("takeUp")->click();
        QVERIFY(!bar->isVisible());
        QTRY_COMPARE(grid().records().changes().size(), std::size_t{1});
        QCOMPARE(grid().records().changes()[0].name, key);
        QCOMPARE(grid().records().changes()[0].cells[0].after, QString("Typed and not saved"));
        grid().records().revertAll();
        QTRY_VERIFY(grid().session().drafts().isKept());
    }

    void whatATextMustLookLikeIsSet() {
        build().selectColumn(QStringLiteral("work"));
        auto* kinds = named<QComboBox>(&build().fittings(), "Entered with");
        auto* pattern = named<QLineEdit>(&build().fittings(), "Pattern that a text must match");
        QVERIFY(kinds && pattern);
        const auto choose = [&](const QString& words) {
            kinds->setCurrentIndex(kinds->findText(words));
            Q_EMIT kinds->activated(kinds->currentIndex());
        };
        QVERIFY(kinds->findText("marks to click on") < 0);  // not for texts
        choose("several lines");
        QCOMPARE(design().column("work")->entry.kind, EntryKind::Lines);
        pattern->setFocus();
        QTest::keyClicks(pattern, "[A-Z].*(");
        QTest::keyClick(pattern, Qt::Key_Return);
        QCOMPARE(design().column("work")->entry.pattern, std::string());  // it is none, and that is said
        QTest::keyClick(pattern, Qt::Key_Backspace);
        QTest::keyClick(pattern, Qt::Key_Return);
        QCOMPARE(design().column("work")->entry.pattern, std::string("[A-Z].*"));
        const auto said = [&](const QString& words) {
            for (const QLabel* label : build().fittings().findChildren<QLabel*>())
                if (label->isVisible() && label->text().contains(words)) return true;
            return false;
        };
        QVERIFY(said("records match."));
        pattern->selectAll();
        QTest::keyClicks(pattern, "[a-z]+");
        QTest::keyClick(pattern, Qt::Key_Return);
        QTRY_VERIFY(said("do not match, e.g."));
        window_->document().undo();
        QCOMPARE(design().column("work")->entry.pattern, std::string("[A-Z].*"));
        build().selectColumn(QStringLiteral("hours"));
        QVERIFY(!named<QLineEdit>(&build().fittings(), "Pattern that a text must match"));
        build().selectColumn(QStringLiteral("vessel"));
        auto* adds = [&]() -> QCheckBox* {
            for (QCheckBox* box : build().fittings().findChildren<QCheckBox*>())
                if (box->isVisible() && box->text() == "What is not found may be added") return box;
            return nullptr;
        }();
        QVERIFY(adds);
        adds->click();
        QVERIFY(design().column("vessel")->entry.adds);
    }

    void theGridsEnteringIsSet() {
        build().selectColumn(std::nullopt);
        auto* line = build().fittings().findChild<SegmentedSwitch*>("entryLine");
        QVERIFY(line);
        Q_EMIT line->chosen(2);
        QCOMPARE(design().grid.entryLine, EntryLinePlace::Bottom);
        QTRY_VERIFY(grid().viewport()->findChild<QWidget*>("entryLine")->isVisible());
        auto* versions = named<QComboBox>(&build().fittings(), "Changes elsewhere are known by");
        QVERIFY(versions);
        QCOMPARE(versions->currentText(), QString("the values edited"));
        window_->document().undo();
        QCOMPARE(design().grid.entryLine, EntryLinePlace::None);
        QVERIFY(!grid().viewport()->findChild<QWidget*>("entryLine")->isVisible());
    }

    /// What is on its way into the copy when Keep is pressed is kept with the rest; what was never saved holds it back.
    void keepingWaitsForWhatIsBeingSavedAndForNothingElse() {
        Design next = design();
        next.grid.saving = Saving::EachCell;
        window_->document().apply(next, "Each cell");
        window_->showScreen(MainWindow::Screen::Try);
        auto* page = window_->findChild<TryPage*>();
        QTRY_VERIFY(page && page->isReady() && page->grid().lineCount() > 100 && !page->grid().isLoading());
        auto* keep = page->findChild<QPushButton*>("keepTrial");
        for (int i = 0; i < 60; ++i)
            page->grid().records().setValue(page->grid().recordAt(i), "work", "Kept " + std::to_string(i));
        while (!keep->isVisible()) QTest::qWait(0);
        const auto onTheirWay = page->grid().records().unsaved();
        keep->click();
        QTRY_VERIFY(page->isReady() && !keep->isVisible() && page->grid().lineCount() > 100);
        QCOMPARE(stored("SELECT count(DISTINCT work) FROM jobs WHERE work LIKE 'Kept %'"), QString("60"));
        qInfo("%zu of 60 were on their way", onTheirWay);
        window_->showScreen(MainWindow::Screen::Build);

        next.grid.saving = Saving::Together;
        window_->document().apply(next, "Together");
        window_->showScreen(MainWindow::Screen::Try);
        QTRY_VERIFY(page->isReady() && page->grid().lineCount() > 100 && !page->grid().isLoading());
        page->grid().records().setValue(page->grid().recordAt(1), "work", std::string("Saved one"));
        QCOMPARE(page->grid().records().saveAll(), 1);
        QTRY_VERIFY(keep->isVisible() && page->grid().records().unsaved() == 0);
        page->grid().records().setValue(page->grid().recordAt(2), "work", std::string("A draft"));
        keep->click();
        QTest::qWait(50);
        QVERIFY(keep->isVisible() && keep->isEnabled() && page->grid().isEnabled());
        QVERIFY(saysSomewhere(*page, "not saved yet"));
        QCOMPARE(stored("SELECT count(*) FROM jobs WHERE work IN ('Saved one', 'A draft')"), QString("0"));
        QCOMPARE(page->grid().records().unsaved(), std::size_t{1});
    }

    /// What was tried is written into the database itself when that is asked for, and only then.
    void aTrialIsKeptOrThrownAway() {
        window_->showScreen(MainWindow::Screen::Try);
        auto* page = window_->findChild<TryPage*>();
        QTRY_VERIFY(page && page->isReady() && page->grid().lineCount() > 100 && !page->grid().isLoading());
        auto* keep = page->findChild<QPushButton*>("keepTrial");
        auto* away = page->findChild<QPushButton*>("throwTrialAway");
        QVERIFY(keep && away && !keep->isVisible() && !away->isVisible());
        page->grid().records().setValue(page->grid().recordAt(2), "work", std::string("Tried in vain"));
        QTRY_VERIFY(away->isVisible());
        QTest::mouseClick(away, Qt::LeftButton);
        QTRY_VERIFY(!away->isVisible());
        QTRY_VERIFY(page->isReady() && page->grid().lineCount() > 100 && !page->grid().isLoading());
        QCOMPARE(stored("SELECT count(*) FROM jobs WHERE work LIKE 'Tried%'"), QString("0"));
        page->grid().records().setValue(page->grid().recordAt(2), "work", std::string("Tried for good"));
        page->grid().records().setValue(page->grid().recordAt(3), "work", std::string("Tried, too"));
        QTRY_COMPARE(keep->text(), QString("Keep 2 records in kelpie-quay.db"));
        QTest::mouseClick(keep, Qt::LeftButton);
        QTRY_VERIFY(!keep->isVisible());
        QTRY_VERIFY(page->isReady() && page->grid().lineCount() > 100 && !page->grid().isLoading());
        QCOMPARE(stored("SELECT group_concat(work) FROM (SELECT work FROM jobs WHERE work LIKE 'Tried%' ORDER BY 1)"),
                 QString("Tried for good,Tried, too"));
        window_->showScreen(MainWindow::Screen::Build);
        QTRY_VERIFY(!grid().isLoading());
        bool isShown = false;
        for (std::int64_t line = 0; line < grid().lineCount(); ++line)
            isShown = isShown || grid().recordAt(line).text("work") == "Tried for good";
        QVERIFY(isShown);  // Build has read it again
        // Pictures named in files are found beside the copy as beside the database: it has a path.
        window_->showScreen(MainWindow::Screen::Try);
        QTRY_VERIFY(page->isReady() && !page->grid().isLoading());
        QVERIFY(!page->grid().session().sourcePath().empty());
    }

    void theTrialHasSheetListAndNewRecord() {
        Design next = design();
        next.grid.saving = Saving::Together;
        window_->document().apply(next, "Together");
        window_->showScreen(MainWindow::Screen::Try);
        auto* page = window_->findChild<TryPage*>();
        QTRY_VERIFY(page && page->isReady() && page->grid().lineCount() > 100 && !page->grid().isLoading());
        auto* sheet = page->findChild<RecordSheet*>();
        auto* list = page->findChild<ChangeList*>();
        QVERIFY(sheet && list && sheet->isVisible() && !list->isVisible());
        page->grid().selection().setCurrentCell(2, 0);
        auto* box = static_cast<FieldBox*>(sheet->fieldBox("work"));
        QVERIFY(box);
        QTRY_COMPARE(box->shownText(), page->grid().selection().current().text("work"));
        box->setFocus();
        QTest::keyClick(box, Qt::Key_F2);
        auto* entry = box->findChild<QLineEdit*>("cellEntry");
        QVERIFY(entry);
        entry->selectAll();
        QTest::keyClicks(entry, "Typed in the sheet");
        QTest::keyClick(entry, Qt::Key_Return);
        QTRY_VERIFY(page->findChild<QPushButton*>("showChanges")->isEnabled());
        page->findChild<QPushButton*>("showChanges")->click();
        QTRY_VERIFY(list->isVisible());
        QTRY_COMPARE(list->heading(), QString("1 change in 1 record"));
        const std::int64_t lines = page->grid().lineCount();
        page->findChild<QPushButton*>("newRecord")->click();
        QTRY_COMPARE(page->grid().lineCount(), lines + 1);
        QTRY_VERIFY(list->heading().contains("2 records"));
        // The copy is thrown away; nothing asks and nothing is left of it.
        window_->showScreen(MainWindow::Screen::Build);
        QTRY_VERIFY(build().isVisible());
    }
};

QTEST_MAIN(ChecksWorkbenchTest)
#include "tst_checks_workbench.moc"
