// SPDX-License-Identifier: MIT
// Leaving and binding in the workbench lose nothing unasked: binding to another table is a step that is taken back,
// edits that the database refused are listed before they would go, the window fits its screen and keeps its panels.
#include <QtTest>

#include <QMessageBox>
#include <QPushButton>
#include <QScreen>
#include <QSplitter>

#include <sqlite3.h>

#include "core/session/session.h"
#include "demo/boatyard.h"
#include "tests/workbench/open_window.h"
#include "workbench/app/unsaved_edits.h"
#include "workbench/build/build_page.h"
#include "workbench/popovers/source_popover.h"
#include "workbench/popovers/table_look.h"

using namespace jollyrow;

class LeavingTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void initTestCase() { test::prepareWorkbench(); }
    void init() {
        folder_ = std::make_unique<QTemporaryDir>();
        database_ = folder_->filePath("yard.db");
        QVERIFY(demo::makeBoatyard(database_.toStdString(), {200, 1}, {}).ok());
        window_ = test::shownWindow();
        QVERIFY(window_);
        window_->openPath(database_);
        build().editors().close();
        bind("jobs");
    }
    void cleanup() { window_.reset(); }

    void bindingIsAStepThatIsTakenBack() {
        Design headed = document().design();
        headed.column("hours")->heading = "How long";
        document().apply(headed, "Rename Hours");
        build().editors().openStation(Stage::Source);
        auto* popover = window_->findChild<SourcePopover*>();
        QVERIFY(popover);
        for (QPushButton* button : popover->findChildren<QPushButton*>())
            if (button->text() == "owners") {
                QTest::mouseClick(button, Qt::LeftButton);
                break;
            }
        QCOMPARE(document().design().source.table, std::string("jobs"));  // it is looked at first
        QTest::mouseClick(popover->findChild<QPushButton*>("bindTable"), Qt::LeftButton);
        QTRY_COMPARE(document().design().source.table, std::string("owners"));
        QTRY_VERIFY(!grid().isLoading() && grid().lineCount() > 0);
        QVERIFY(grid().recordAt(0).text("name").size() > 1);
        QCOMPARE(document().undoLabel(), QString("Bind to owners"));
        document().undo();
        QCOMPARE(document().design().source.table, std::string("jobs"));
        QTRY_COMPARE(grid().lineCount(), std::int64_t{200});
        QCOMPARE(document().design().column("hours")->heading, std::string("How long"));
        QCOMPARE(document().undoLabel(), QString("Rename Hours"));
        document().redo();
        QCOMPARE(document().design().source.table, std::string("owners"));
        document().undo();
        document().undo();
        QCOMPARE(document().design().column("hours")->heading, std::string("Hours"));
    }

    /// All tables are there, found by search and keys, with what they are before anything is bound.
    void everyTableOfTheDatabase() {
        {
            sqlite3* handle = nullptr;
            sqlite3_open(database_.toLocal8Bit().constData(), &handle);
            for (int i = 0; i < 60; ++i)
                sqlite3_exec(handle,
                             qPrintable(QString("CREATE TABLE zz_%1 (id INTEGER PRIMARY KEY, note TEXT UNIQUE, "
                                                "job INTEGER NOT NULL REFERENCES jobs(number), CHECK (id > %1))")
                                            .arg(i)),
                             nullptr, nullptr, nullptr);
            sqlite3_exec(handle, "INSERT INTO zz_59 VALUES (100, 'only one', 7)", nullptr, nullptr, nullptr);
            sqlite3_close(handle);
        }
        build().editors().openStation(Stage::Source);
        auto* popover = window_->findChild<SourcePopover*>();
        auto* look = popover->findChild<TableLook*>();
        QTRY_VERIFY(look->words().contains("number"));  // of the table that is bound
        QVERIFY(!popover->findChild<QPushButton*>("bindTable")->isEnabled());
        const auto rows = [&](bool seen) {
            QStringList names;
            for (QPushButton* button : popover->findChildren<QPushButton*>())
                if (button->text().startsWith("zz_") && (!seen || button->isVisibleTo(popover)))
                    names << button->text();
            return names;
        };
        QCOMPARE(rows(true).size(), 60);
        auto* search = popover->findChild<QLineEdit*>("searchTables");
        search->setFocus();
        QTest::keyClicks(search, "ZZ_5");
        QCOMPARE(rows(true).size(), 11);  // 5 and 50 to 59
        for (int i = 0; i < 20; ++i) QTest::keyClick(search, Qt::Key_Down);
        QTRY_VERIFY(look->words().contains("job points to jobs") && look->words().contains("unique: note"));
        QVERIFY(look->words().contains("key: id") && look->words().contains("id > 59"));
        QVERIFY(look->words().contains("job  INTEGER, required"));
        QTRY_COMPARE(look->records().lineCount(), std::int64_t{1});
        QCOMPARE(look->records().recordAt(0).text("note"), QString("only one"));
        QTest::keyClick(search, Qt::Key_Return);
        QTRY_COMPARE(document().design().source.table, std::string("zz_59"));
        build().editors().openStation(Stage::Source);
        popover = window_->findChild<SourcePopover*>();
        search = popover->findChild<QLineEdit*>("searchTables");
        QTest::keyClicks(search, "no such table");
        QCOMPARE(rows(true).size(), 0);
        QTest::keyClick(search, Qt::Key_Down);
        QCOMPARE(document().design().source.table, std::string("zz_59"));
    }

    void refusedEditsAreListedBeforeTheyGo() {
        refuseOne();
        const QStringList list = unsavedEdits(grid());
        QCOMPARE(list.size(), qsizetype{1});
        QVERIFY2(list[0].contains("Hours") && list[0].contains("–"), qPrintable(list[0]));
        QString said;
        answer(QMessageBox::Cancel, said);
        QVERIFY(!window_->mayLeave());
        QVERIFY2(said.contains(list[0]), qPrintable(said));
        answer(QMessageBox::Cancel, said);
        QVERIFY(!window_->close());
        QCOMPARE(grid().records().unsaved(), std::size_t{1});
        // Binding elsewhere asks as well.
        build().editors().openStation(Stage::Source);
        answer(QMessageBox::Cancel, said);
        Q_EMIT window_->findChild<SourcePopover*>()->tableChosen("owners");
        QCOMPARE(document().design().source.table, std::string("jobs"));
        answer(QMessageBox::Discard, said);
        Q_EMIT window_->findChild<SourcePopover*>()->tableChosen("owners");
        QTRY_COMPARE(document().design().source.table, std::string("owners"));
    }

    void theWindowIsNoLargerThanItsScreen() {
        MainWindow large;
        large.resize(5000, 4000);
        large.move(3000, 2000);
        large.fitToScreen();
        const QRect room = large.screen()->availableGeometry();
        QVERIFY(large.width() <= room.width() && large.height() <= room.height());
        QVERIFY(room.contains(large.pos()));
    }

    void panelsKeepTheirWidths() {
        auto* panels = build().findChild<QSplitter*>();
        QVERIFY(panels);
        panels->setSizes({260, 720, 300});
        const QList<int> sizes = panels->sizes();
        const QByteArray kept = build().panelWidths();
        panels->setSizes({184, 844, 252});
        QVERIFY(panels->sizes() != sizes);
        build().setPanelWidths(kept);
        QCOMPARE(panels->sizes(), sizes);
        build().setPanelWidths("nonsense");
        QCOMPARE(panels->sizes(), sizes);
    }

  private:
    BuildPage& build() { return *window_->findChild<BuildPage*>(); }
    Grid& grid() { return build().grid(); }
    Document& document() { return window_->document(); }
    void bind(const char* table) {
        if (document().design().source.table != table) QVERIFY(document().openDatabase(database_, table).ok());
        QTRY_VERIFY(!grid().isLoading() && grid().lineCount() == 200);
    }
    void refuseOne() {
        const Record record = grid().recordAt(0);
        QVERIFY(grid().records().setValue(record, "hours", Value(Decimal{-500, 2})));
        QCOMPARE(grid().records().unsaved(), std::size_t{1});  // a CHECK forbids it: it is never asked to be saved
    }
    /// Presses a button of the box that comes up, and keeps what it said.
    void answer(QMessageBox::StandardButton button, QString& said) {
        QTimer::singleShot(50, this, [button, &said] {
            auto* box = qobject_cast<QMessageBox*>(QApplication::activeModalWidget());
            if (!box) return;
            said = box->text() + "\n" + box->informativeText();
            box->button(button)->click();
        });
    }
    std::unique_ptr<QTemporaryDir> folder_;
    std::unique_ptr<MainWindow> window_;
    QString database_;
};

QTEST_MAIN(LeavingTest)
#include "tst_leaving.moc"
