// SPDX-License-Identifier: MIT
// The workbench in its real window: the path of a builder from a database to a saved design, and back again.
#include <QtTest>

#include <QCheckBox>
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QMessageBox>
#include <QPushButton>
#include <QSpinBox>

#include "core/design/design_file.h"
#include "core/session/session.h"
#include "core/sources/source.h"
#include "demo/boatyard.h"
#include "tests/workbench/open_window.h"
#include "workbench/app/actions.h"
#include "workbench/app/look.h"
#include "workbench/app/main_window.h"
#include "workbench/app/start_page.h"
#include "workbench/build/build_page.h"
#include "workbench/build/columns_outline.h"
#include "workbench/controls/segmented_switch.h"
#include "workbench/fittings/fittings.h"
#include "workbench/popovers/sort_popover.h"
#include "workbench/rowline/rowline_bar.h"
#include "workbench/try/try_page.h"

using namespace jollyrow;

class WorkbenchTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void initTestCase() { test::prepareWorkbench(); }
    void init() {
        folder_ = std::make_unique<QTemporaryDir>();
        database_ = folder_->filePath("kelpie-quay.db");
        QVERIFY(demo::makeBoatyard(database_.toStdString(), {400, 3}, {}).ok());
        design_ = folder_->filePath("yard.jrow");
        QVERIFY(writeDesignFile(design_.toStdString(), demo::yardJobsDesign("kelpie-quay.db")).ok());
        window_ = test::shownWindow();
        QVERIFY(window_);
        window_->openPath(design_);
        QTRY_COMPARE(grid().lineCount(), 400);
        QTRY_VERIFY(!grid().isLoading());
        window_->activateWindow();
    }

    void sortEditUndoSaveReopen() {
        clickHeading("status");
        QTRY_COMPARE(document().design().sort.size(), std::size_t{1});
        QCOMPARE(document().undoLabel(), QString("Sort by Status"));
        QVERIFY(document().isDirty());
        QCOMPARE(*build().selectedColumn(), QString("status"));

        const Record record = grid().recordAt(2);
        const QString before = record.plain("work");
        edit(2, "work", "Paint the name");
        QTRY_COMPARE(grid().records().unsaved(), std::size_t{0});
        QCOMPARE(stored(record.key(), "work"), QString("Paint the name"));
        QCOMPARE(document().undoLabel(), QString("Edit Work"));
        QTest::keyClick(window_.get(), Qt::Key_Z, Qt::ControlModifier);
        QTRY_COMPARE(stored(record.key(), "work"), before);
        QTest::keyClick(window_.get(), Qt::Key_Z, Qt::ControlModifier | Qt::ShiftModifier);
        QTRY_COMPARE(stored(record.key(), "work"), QString("Paint the name"));
        document().undo();
        document().undo();
        QVERIFY(document().design().sort.empty());
        QVERIFY(!document().isDirty());
        document().redo();
        QTest::keyClick(window_.get(), Qt::Key_S, Qt::ControlModifier);
        QVERIFY(!document().isDirty());
        const Design saved = document().design();
        window_ = std::make_unique<MainWindow>();
        window_->show();
        window_->openPath(design_);
        QTRY_COMPARE(grid().lineCount(), 400);
        QVERIFY(document().design() == saved);
        QCOMPARE(QString::fromStdString(readDesignFile(design_.toStdString())->design.source.path),
                 QString("kelpie-quay.db"));
    }

    /// New and deleted records are steps like those of the design, taken back in their order.
    void recordsAreUndoneBetweenStepsOfTheDesign() {
        const auto key = [this](Qt::KeyboardModifiers modifiers) {
            QTest::keyClick(window_.get(), Qt::Key_Z, Qt::ControlModifier | modifiers);
        };
        const auto isSettled = [this] { return grid().records().unsaved() == 0; };
        const auto made = grid().records().duplicate(grid().recordAt(0));
        QVERIFY(made.ok());
        QCOMPARE(document().undoLabel(), QString("New record"));
        QCOMPARE(grid().records().save(*made), 1);
        QTRY_VERIFY(grid().lineCount() == 401 && isSettled());
        QTest::mouseClick(build().outline().viewport(), Qt::LeftButton, {},
                          build().outline().eyeRect("hours").center());
        QVERIFY(!document().design().column("hours")->shown);
        QVERIFY(grid().records().remove({*made}));
        QCOMPARE(document().undoLabel(), QString("Delete a record"));
        QTRY_VERIFY(grid().lineCount() == 400 && isSettled());
        key({});
        QTRY_VERIFY(grid().lineCount() == 401 && isSettled());
        QVERIFY(!document().design().column("hours")->shown);
        key({});
        QVERIFY(document().design().column("hours")->shown);
        QCOMPARE(document().undoLabel(), QString("New record"));
        key({});
        QTRY_VERIFY(grid().lineCount() == 400 && isSettled());
        QCOMPARE(document().undoLabel(), QString());
        QVERIFY(!document().isDirty());
        for (int i = 0; i < 3; ++i) {
            key(Qt::ShiftModifier);
            QTRY_VERIFY(isSettled());
        }
        QTRY_COMPARE(grid().lineCount(), std::int64_t{400});
        QVERIFY(!document().design().column("hours")->shown);
        QCOMPARE(document().redoLabel(), QString());
        QCOMPARE(document().undoLabel(), QString("Delete a record"));
    }

    /// Records that were left by binding to other ones keep what was edited; the steps before are still to be had.
    void editsOfRecordsThatWereLeftAreSaid() {
        const Record record = grid().recordAt(2);
        clickHeading("status");
        edit(2, "work", "Paint the name");
        QTRY_COMPARE(grid().records().unsaved(), std::size_t{0});
        QVERIFY(document().rebind("owners", {}).ok());
        QTRY_VERIFY(grid().snapshot()->table->schema.name == "owners" && !grid().isLoading());
        document().undo();
        QTRY_VERIFY(grid().snapshot()->table->schema.name == "jobs" && !grid().isLoading());
        QSignalSpy said(&document(), &Document::recordsForgotten);
        document().undo();
        QCOMPARE(said.size(), 1);
        QCOMPARE(said[0][0].toString(), QString("Edit Work"));
        QCOMPARE(document().undoLabel(), QString("Sort by Status"));
        document().undo();
        QVERIFY(document().design().sort.empty());
    }

    void outlineShowsHidesMovesAndAdds() {
        auto& outline = build().outline();
        QTest::mouseClick(outline.viewport(), Qt::LeftButton, {}, outline.eyeRect("hours").center());
        QVERIFY(!document().design().column("hours")->shown);
        QVERIFY(grid().places().heading("hours").isEmpty());
        QTest::mouseClick(outline.viewport(), Qt::LeftButton, {}, outline.eyeRect("vessel.length").center());
        QVERIFY(document().design().column("vessel.length")->shown);
        const QPoint from = outline.rowRect("parts").center() - QPoint(40, 0),
                     to = outline.rowRect("work").topLeft() + QPoint(60, 3);
        QTest::mousePress(outline.viewport(), Qt::LeftButton, {}, from);
        for (int step = 1; step <= 5; ++step) QTest::mouseMove(outline.viewport(), from + (to - from) * step / 5);
        QTest::mouseRelease(outline.viewport(), Qt::LeftButton, {}, to);
        QCOMPARE(document().design().columns[5].field, std::string("parts"));
        QCOMPARE(document().undoLabel(), QString("Move Parts under Job"));
        outline.setFocus();
        QTest::keyClick(&outline, Qt::Key_Down, Qt::AltModifier);
        QCOMPARE(document().design().columns[6].field, std::string("parts"));
        QTest::keyClick(&outline, Qt::Key_Space);
        QVERIFY(!document().design().column("parts")->shown);
        for (int i = 0; i < 5; ++i) document().undo();
        QVERIFY(!document().isDirty());
        // A field that the grid does not use is offered below; Delete puts a column there.
        QTest::mouseClick(outline.viewport(), Qt::LeftButton, {}, outline.rowRect("paid").center());
        QVERIFY(document().design().column("paid"));
        QTest::keyClick(&outline, Qt::Key_Delete);
        QVERIFY(!document().design().column("paid"));
        QCOMPARE(document().undoLabel(), QString("Take Paid out"));
        // The eye of a tier is that of all its columns.
        QTest::mouseMove(outline.viewport(), outline.tierRowRect("Cost").center());
        QTest::mouseClick(outline.viewport(), Qt::LeftButton, {},
                          QPoint(outline.viewport()->width() - 18, outline.tierRowRect("Cost").center().y()));
        QVERIFY(!document().design().column("hours")->shown && !document().design().column("parts")->shown);
        QVERIFY(grid().places().tier("Labour").isEmpty());
        document().undo();
        QVERIFY(!grid().places().tier("Labour").isEmpty());
    }

    void fittingsChangeTheLiveGridInOneStepAGesture() {
        build().selectColumn(QString("due_on"));
        auto* heading = fitting<QLineEdit>("Heading");
        heading->selectAll();
        QTest::keyClicks(heading, "Wanted by");
        QCOMPARE(document().design().column("due_on")->heading, std::string("Wanted by"));
        QCOMPARE(document().undoLabel(), QString("Rename due_on"));
        document().undo();
        QCOMPARE(document().design().column("due_on")->heading, std::string("Due"));
        QVERIFY(document().undoLabel().isEmpty());

        build().selectColumn(QString("number"));
        const int before = grid().places().heading("number").width();
        auto* mode = fitting<QSpinBox>("Width in pixels")->parentWidget()->findChild<SegmentedSwitch*>();
        QTest::mouseClick(mode, Qt::LeftButton, {}, QPoint(20, mode->height() / 2));
        QCOMPARE(grid().places().heading("number").width(), before);  // fixed at what it was
        auto* pixels = fitting<QSpinBox>("Width in pixels");
        pixels->setValue(140);
        QCOMPARE(grid().places().heading("number").width(), 140);
        pixels->setValue(150);
        document().undo();
        QCOMPARE(grid().places().heading("number").width(), before);
    }

    void severalColumnsAreSetAtOnce() {
        auto& outline = build().outline();
        const auto click = [&](const char* field, Qt::KeyboardModifiers modifiers) {
            QTest::mouseClick(outline.viewport(), Qt::LeftButton, modifiers,
                              outline.rowRect(field).center() - QPoint(30, 0));
        };
        click("hours", {});
        click("parts", Qt::ShiftModifier);
        QCOMPARE(build().selectedColumns(), (std::vector<QString>{"hours", "labour", "parts"}));
        auto* readOnly = checkBox("Read-only");
        document().apply(
            [&] {
                Design d = document().design();
                d.column("hours")->readOnly = true;
                return d;
            }(),
            "lock one");
        QCOMPARE(readOnly->checkState(), Qt::PartiallyChecked);  // mixed
        QVERIFY(fitting<QLineEdit>("Heading")->text().isEmpty());
        QCOMPARE(fitting<QLineEdit>("Heading")->placeholderText(), QString("mixed"));
        QTest::mouseClick(readOnly, Qt::LeftButton, {}, QPoint(8, readOnly->height() / 2));
        for (const char* field : {"hours", "labour", "parts"}) QVERIFY(document().design().column(field)->readOnly);
        QCOMPARE(document().undoLabel(), QString("Lock 3 columns"));
        auto* pattern = fitting<QLineEdit>("Pattern");
        pattern->selectAll();
        QTest::keyClicks(pattern, "#,##0");
        QCOMPARE(document().design().column("parts")->format.pattern, std::string("#,##0"));
        document().undo();
        QCOMPARE(document().undoLabel(), QString("Lock 3 columns"));
    }

    void aWrongPatternIsSaidAndTheLastGoodOneStays() {
        build().selectColumn(QString("due_on"));
        auto* pattern = fitting<QLineEdit>("Pattern");
        pattern->setFocus();
        pattern->selectAll();
        QTest::keyClicks(pattern, "d MMM");
        QCOMPARE(document().design().column("due_on")->format.pattern, std::string("d MMM"));
        QTest::keyClicks(pattern, " HH");
        QCOMPARE(document().design().column("due_on")->format.pattern, std::string("d MMM "));
        bool said = false;
        for (const QLabel* label : build().fittings().findChildren<QLabel*>())
            said = said || (label->isVisible() && label->text().contains("H is a time of day"));
        QVERIFY(said);
        QCOMPARE(pattern->text(), QString("d MMM HH"));
        QTest::keyClick(pattern, Qt::Key_Backspace);
        QTest::keyClick(pattern, Qt::Key_Backspace);
        for (const QLabel* label : build().fittings().findChildren<QLabel*>())
            QVERIFY(!label->isVisible() || !label->text().contains("H is a time of day"));
    }

    void aFindingIsMendedWithOneClick() {
        Design renamed = document().design();
        renamed.column("hours")->field = "hurs";
        renamed.column("labour")->format = formatFor("EEE d", false);
        document().apply(renamed, "as an older table had it");
        QCOMPARE(grid().findings().size(), std::size_t{2});
        window_->showFindings();
        const auto press = [&](const QString& words) {
            for (QPushButton* button : window_->findChildren<QPushButton*>("mend"))
                if (button->text() == words) return QTest::mouseClick(button, Qt::LeftButton);
            QFAIL(qPrintable("nothing offers: " + words));
        };
        press("Use hours");
        QVERIFY(document().design().column("hours") && !document().design().column("hurs"));
        QCOMPARE(document().undoLabel(), QString("Use hours"));
        press("Show labour by type");
        QVERIFY(grid().findings().empty());
        document().undo();
        document().undo();
        QCOMPARE(grid().findings().size(), std::size_t{2});
        document().undo();
    }

    void headingsAreDroppedOnTheSortStation() {
        QSignalSpy clicked(&grid(), &Grid::designEdited);
        QWidget* viewport = grid().viewport();
        const QPoint from = grid().places().heading("hours").center();
        const QPoint to =
            viewport->mapFromGlobal(build().rowline().mapToGlobal(build().rowline().stationRect(Stage::Sort).center()));
        QTest::mousePress(viewport, Qt::LeftButton, {}, from);
        for (int step = 1; step <= 6; ++step) QTest::mouseMove(viewport, from + (to - from) * step / 6);
        QTest::mouseRelease(viewport, Qt::LeftButton, {}, to);
        QCOMPARE(document().design().sort.size(), std::size_t{1});
        QCOMPARE(document().design().sort[0].field, std::string("hours"));
    }

    void theSortStationEditsKeys() {
        clickHeading("hours");
        QTest::mouseClick(&build().rowline(), Qt::LeftButton, {}, build().rowline().stationRect(Stage::Sort).center());
        auto* popover = build().findChild<SortPopover*>();
        QVERIFY(popover && popover->isVisible());
        auto* add = popover->findChild<QComboBox*>();
        const int work = add->findData("work");
        QVERIFY(work > 0);
        add->setCurrentIndex(work);
        Q_EMIT add->activated(work);
        QTRY_COMPARE(document().design().sort.size(), std::size_t{2});
        QTRY_COMPARE(popover->findChild<QComboBox*>()->findData("work"), -1);
        document().undo();
        QTRY_VERIFY(popover->findChild<QComboBox*>()->findData("work") > 0);
        QTest::keyClick(popover, Qt::Key_Escape);
        QTRY_VERIFY(!build().findChild<SortPopover*>() || !build().findChild<SortPopover*>()->isVisible());
    }

    void actionsAreFoundByName() {
        build().selectColumn(QString("hours"));
        QTest::keyClick(window_.get(), Qt::Key_K, Qt::ControlModifier);
        auto* finder = window_->findChild<ActionFinder*>();
        QVERIFY(finder);
        auto* entry = finder->findChild<QLineEdit*>();
        QTest::keyClicks(entry, "sort down");
        QCOMPARE(finder->findChild<QListWidget*>()->count(), 1);
        QTest::keyClick(entry, Qt::Key_Return);
        QTRY_COMPARE(document().design().sort.size(), std::size_t{1});
        QCOMPARE(document().design().sort[0].direction, Direction::Descending);
    }

    void theTrialSavesForRealAndHarmsNothing() {
        window_->showScreen(MainWindow::Screen::Try);
        QTRY_VERIFY(window_->tryPage().isReady());
        Grid& form = window_->tryPage().grid();
        QTRY_COMPARE(form.lineCount(), 400);
        QTRY_VERIFY(!form.isLoading());
        const Record record = form.recordAt(0);
        const QString before = record.plain("work");
        QSignalSpy answered(&form, &Grid::editAnswered);
        form.records().setValue(record, "work", std::string("Only a trial"));
        QTRY_COMPARE(answered.count(), 1);
        QVERIFY(answered.at(0).at(0).toBool());
        form.reload();
        QTRY_VERIFY(!form.isLoading());
        QCOMPARE(form.recordAt(0).plain("work"), QString("Only a trial"));
        QCOMPARE(stored(record.key(), "work"), before);
        window_->showScreen(MainWindow::Screen::Build);
        QCOMPARE(grid().recordAt(0).plain("work"), before);
    }

    void theSourceStationBindsToAnotherTable() {
        QVERIFY(document().openDatabase(database_, "vessels").ok());
        QTRY_COMPARE(grid().design().source.table, std::string("vessels"));
        QTRY_VERIFY(grid().lineCount() > 50);
        QVERIFY(!document().openDatabase(database_, "ships").ok());
        QCOMPARE(document().design().source.table, std::string("vessels"));
        QVERIFY(
            document().openDatabase(database_, {}, "SELECT status, count(*) AS jobs FROM jobs GROUP BY status").ok());
        QTRY_COMPARE(grid().lineCount(), 5);
    }

    void whatCannotBeOpenedIsSaidOnTheStartScreen() {
        window_->showStart();
        const QString text = folder_->filePath("letter.txt");
        QFile file(text);
        QVERIFY(file.open(QIODevice::WriteOnly));
        file.write("Dear yard");
        file.close();
        window_->openPath(text);
        bool said = false;
        for (const QLabel* label : window_->startPage().findChildren<QLabel*>())
            said = said || (label->isVisible() && label->text().contains("not an SQLite database"));
        QVERIFY(said);
        QFile broken(design_);
        QVERIFY(broken.open(QIODevice::ReadWrite));
        broken.resize(broken.size() / 2);
        broken.close();
        window_->openPath(design_);
        said = false;
        for (const QLabel* label : window_->startPage().findChildren<QLabel*>())
            said = said || (label->isVisible() && label->text().contains("breaks off"));
        QVERIFY(said);
    }

    void leavingAsksAboutUnsavedChanges() {
        clickHeading("status");
        QTimer::singleShot(100, [] {
            auto* box = qobject_cast<QMessageBox*>(QApplication::activeModalWidget());
            if (box) box->button(QMessageBox::Cancel)->click();
        });
        QVERIFY(!window_->mayLeave());
        QTimer::singleShot(100, [] {
            auto* box = qobject_cast<QMessageBox*>(QApplication::activeModalWidget());
            if (box) box->button(QMessageBox::Save)->click();
        });
        QVERIFY(window_->mayLeave());
        QCOMPARE(readDesignFile(design_.toStdString())->design.sort.size(), std::size_t{1});
        QVERIFY(window_->mayLeave());
    }

    void cleanup() {
        if (window_ && document().isDirty()) document().save(design_).ok();
        window_.reset();
    }

  private:
    Grid& grid() { return window_->buildPage().grid(); }
    BuildPage& build() { return window_->buildPage(); }
    Document& document() { return window_->document(); }
    void clickHeading(const char* field) {
        QTest::mouseClick(grid().viewport(), Qt::LeftButton, {}, grid().places().heading(field).center());
    }
    void edit(std::int64_t line, const char* field, const QString& typed) {
        QTest::mouseDClick(grid().viewport(), Qt::LeftButton, {}, grid().places().cell(line, field).center());
        auto* entry = grid().viewport()->findChild<QLineEdit*>("cellEntry");
        QVERIFY(entry);
        entry->selectAll();
        QTest::keyClicks(entry, typed);
        QTest::keyClick(entry, Qt::Key_Return);
    }
    template <class W>
    W* fitting(const QString& accessibleName) {
        for (W* widget : build().fittings().template findChildren<W*>())
            if (widget->accessibleName() == accessibleName) return widget;
        return nullptr;
    }
    QCheckBox* checkBox(const QString& text) {
        for (QCheckBox* box : build().fittings().findChildren<QCheckBox*>())
            if (box->text() == text) return box;
        return nullptr;
    }
    QString stored(const RecordKey& key, const QString& field) {
        auto source = openSource(database_.toStdString());
        LoadRequest request;
        request.binding = {"jobs", ""};
        const auto table = (*source)->load(request, Cancel());
        for (std::size_t i = 0; i < (*table)->rows; ++i)
            if ((*table)->key(static_cast<SourceRow>(i)) == key)
                return QString::fromStdString(std::get<std::string>(
                    (*table)->column(*(*table)->schema.find(field.toStdString()))->value(static_cast<SourceRow>(i))));
        return {};
    }
    std::unique_ptr<QTemporaryDir> folder_;
    QString database_, design_;
    std::unique_ptr<MainWindow> window_;
};

QTEST_MAIN(WorkbenchTest)
#include "tst_workbench.moc"
