// SPDX-License-Identifier: MIT
// What the workbench waits for: the window lives on, long waits are said and can be stopped, and nothing else is done
// meanwhile.
#include <QtTest>

#include <QApplication>
#include <QDialog>
#include <QLabel>
#include <QPushButton>
#include <QTemporaryDir>
#include <QTimer>

#include <sqlite3.h>

#include "grid/api/grid.h"
#include "tests/hasty.h"
#include "tests/workbench/open_window.h"
#include "workbench/app/main_window.h"
#include "workbench/app/patiently.h"
#include "workbench/build/build_page.h"
#include "workbench/build/columns_outline.h"

using namespace jollyrow;

class PatientlyTest : public QObject {
    Q_OBJECT

    QTemporaryDir folder_;
    QString database_;

    static Result<int> whenCancelled(const Cancel& cancel) {
        while (!cancel.requested()) QThread::msleep(1);
        return Error{ErrorCode::Cancelled, "Stopped."};
    }
    /// Does something with the card as soon as it is there.
    static void withCard(const std::function<void(QDialog&)>& act) {
        auto* timer = new QTimer(qApp);
        connect(timer, &QTimer::timeout, qApp, [timer, act] {
            auto* card = qobject_cast<QDialog*>(QApplication::activeModalWidget());
            if (!card) return;
            timer->deleteLater();
            timer->stop();
            act(*card);
        });
        timer->start(20);
    }

  private Q_SLOTS:
    void initTestCase() {
        test::prepareWorkbench();
        database_ = folder_.filePath("slow.db");
        sqlite3* db = nullptr;
        QCOMPARE(sqlite3_open(database_.toUtf8().constData(), &db), SQLITE_OK);
        QCOMPARE(
            sqlite3_exec(db,
                         "CREATE TABLE firms (id INTEGER PRIMARY KEY, name TEXT);"
                         "INSERT INTO firms VALUES (1, 'Kelpie Quay'), (2, 'Tern & Daughters');"
                         "CREATE TABLE jobs (id INTEGER PRIMARY KEY, hours REAL, firm INTEGER REFERENCES firms(id));"
                         "INSERT INTO jobs VALUES (1, 2.5, 1), (2, 4, 2), (3, 1, 1);"
                         "CREATE VIEW slow AS WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE "
                         "i < 600000) SELECT i % 7 AS day, count(*) AS times FROM n GROUP BY day;"
                         "CREATE VIEW endless AS WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n) "
                         "SELECT count(*) AS times FROM n",
                         nullptr, nullptr, nullptr),
            SQLITE_OK);
        sqlite3_close(db);
    }

    void whatIsThereSoonIsNotWaitedFor() {
        int events = 0;
        QTimer::singleShot(0, qApp, [&] { ++events; });
        const auto answer = patiently<int>("Counting", [](const Cancel&) { return Result<int>(7); });
        QCOMPARE(*answer, 7);
        QCOMPARE(events, 0);
        QVERIFY(!patiently<int>("Counting", [](const Cancel&) -> Result<int> {
                     return Error{ErrorCode::NotFound, "none"};
                 }).ok());
    }

    void theWindowLivesOnMeanwhile() {
        const Hasty hasty;
        int ticks = 0;
        QTimer timer;
        connect(&timer, &QTimer::timeout, [&] { ++ticks; });
        timer.start(1);
        const auto answer = patiently<int>("Counting", [&](const Cancel&) {
            QThread::msleep(150);
            return Result<int>(7);
        });
        QCOMPARE(*answer, 7);
        QVERIFY2(ticks > 10, qPrintable(QString::number(ticks)));
    }

    void aLongWaitIsSaidAndStoppedByTheButtonOrEscape_data() {
        QTest::addColumn<bool>("byKey");
        QTest::newRow("button") << false;
        QTest::newRow("Escape") << true;
    }
    void aLongWaitIsSaidAndStoppedByTheButtonOrEscape() {
        QFETCH(bool, byKey);
        const Hasty hasty;
        QWidget window;
        QPushButton other("Other", &window);
        window.resize(300, 200);
        window.show();
        QVERIFY(QTest::qWaitForWindowExposed(&window));
        int pressed = 0;
        connect(&other, &QPushButton::clicked, [&] { ++pressed; });
        QString words;
        withCard([&](QDialog& card) {
            words = card.findChild<QLabel*>()->text();
            QTest::mouseClick(window.windowHandle(), Qt::LeftButton, {}, other.geometry().center());
            byKey ? QTest::keyClick(&card, Qt::Key_Escape)
                  : QTest::mouseClick(card.findChild<QPushButton*>(), Qt::LeftButton);
        });
        QTest::mouseClick(window.windowHandle(), Qt::LeftButton, {}, other.geometry().center());
        QCOMPARE(std::exchange(pressed, 0), 1);  // there is something to press
        const auto answer = patiently<int>("Reading the columns of endless", whenCancelled);
        QCOMPARE(answer.error().code, ErrorCode::Cancelled);
        QVERIFY2(words.startsWith("Reading the columns of endless"), qPrintable(words));
        QCOMPARE(pressed, 0);
        QVERIFY(!QApplication::activeModalWidget());
    }

    /// Binding to a view that takes long to begin, by the document as the Source station does it.
    void aSlowViewIsBoundAndAnEndlessOneLetGo() {
        MainWindow window;
        window.resize(1280, 800);
        window.show();
        window.openPath(database_);
        const Hasty hasty;
        QVERIFY(window.document().rebind("slow", {}).ok());
        QTRY_VERIFY(!window.buildPage().grid().isLoading());
        QTRY_COMPARE(window.buildPage().grid().snapshot()->lineCount(), std::int64_t{7});
        withCard([](QDialog& card) { QTest::keyClick(&card, Qt::Key_Escape); });
        const auto bound = window.document().rebind("endless", {});
        QCOMPARE(bound.error().code, ErrorCode::Cancelled);
        QCOMPARE(window.document().design().source.table, std::string("slow"));
        QTRY_COMPARE(window.buildPage().grid().snapshot()->lineCount(), std::int64_t{7});
    }

    /// An outline that is opened before the other table's columns are known shows them when they are.
    void fieldsOfAnotherTableComeLater() {
        MainWindow window;
        window.resize(1280, 800);
        window.show();
        window.openPath(database_);
        QVERIFY(window.document().openDatabase(database_, "jobs").ok());
        Grid& grid = window.buildPage().grid();
        QTRY_VERIFY(!grid.isLoading());
        const Hasty hasty(std::chrono::milliseconds(0));
        QSignalSpy read(&grid, &Grid::schemasRead);
        sqlite3* other = nullptr;
        QCOMPARE(sqlite3_open(database_.toUtf8().constData(), &other), SQLITE_OK);
        QCOMPARE(sqlite3_exec(other, "BEGIN EXCLUSIVE", nullptr, nullptr, nullptr), SQLITE_OK);
        QCOMPARE(grid.session().schemaOf("firms").error().code, ErrorCode::Locked);
        QVERIFY(!grid.session().schemaReading("firm.id = 1").find("firm.id"));
        QCOMPARE(sqlite3_close(other), SQLITE_OK);
        QTRY_COMPARE(read.count(), 1);
        QVERIFY(grid.session().schemaOf("firms").ok());
        QVERIFY(grid.session().schemaReading("firm.id = 1").find("firm.id"));
    }
};

QTEST_MAIN(PatientlyTest)
#include "tst_patiently.moc"
