// SPDX-License-Identifier: MIT
// A database on a server in the workbench's real window: asked for by its address, shown, edited into the server, saved
// as a design and opened again; what goes wrong is said where it was asked.
#include <QtTest>

#include <QAbstractButton>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>

#include "core/design/design_file.h"
#include "core/session/session.h"
#include "tests/rules/postgres_server.h"
#include "tests/workbench/open_window.h"
#include "workbench/app/start_page.h"
#include "workbench/build/build_page.h"
#include "workbench/popovers/server_popover.h"
#include "workbench/try/try_page.h"

using namespace jollyrow;

class ServerTest : public QObject {
    Q_OBJECT
    test::PostgresServer server_;
    std::unique_ptr<MainWindow> window_;

    Grid& grid() { return window_->buildPage().grid(); }
    QString asked(const std::string& sql) {
        const auto answer = server_.query(sql);
        return QString::fromStdString(answer.cells.empty() ? answer.error : answer.cells.front().value_or("(null)"));
    }
    QAbstractButton* called(const QString& name, QWidget& in) {
        for (auto* button : in.findChildren<QAbstractButton*>())
            if (button->isVisible() && (button->accessibleName() == name || button->text() == name)) return button;
        return nullptr;
    }

  private Q_SLOTS:
    void initTestCase() {
        test::prepareWorkbench();
        QCOMPARE(server_.start(), std::string());
        QCOMPARE(server_.execute(
                     "CREATE TABLE vessels (id integer PRIMARY KEY, name text NOT NULL); INSERT INTO vessels VALUES "
                     "(1, 'Bittern'), (2, 'Avocet'); CREATE TABLE jobs (number integer PRIMARY KEY, vessel integer "
                     "REFERENCES vessels, hours numeric(6,2) CHECK (hours < 100)); INSERT INTO jobs SELECT i, i % 2 "
                     "+ 1, i / 4.0 FROM generate_series(1, 300) AS i"),
                 std::string());
    }
    void init() {
        window_ = test::shownWindow();
        QVERIFY(window_);
    }
    void cleanup() { window_.reset(); }

    void anAddressIsAskedForAndOpened() {
        auto* choice = called("Open a database on a server…", window_->startPage());
        QVERIFY(choice);
        QTest::mouseClick(choice, Qt::LeftButton);
        QPointer<ServerPopover> card = window_->findChild<ServerPopover*>();
        QVERIFY(card && card->isVisible());
        const auto said = [&](const QString& words) {
            for (const QLabel* label : card->findChildren<QLabel*>())
                if (label->isVisible() && label->text().contains(words)) return true;
            return false;
        };
        const auto enter = [&](const QString& address) {
            card->entry()->selectAll();
            QTest::keyClicks(card->entry(), address);
            QTest::keyClick(card->entry(), Qt::Key_Return);
        };
        enter("/tmp/yard.db");
        QVERIFY(said("begins with postgresql://"));
        enter("postgresql://x@/nothing?host=/nowhere");
        QTRY_VERIFY(said("cannot be reached"));
        enter("postgresql://x:secret@/nothing");
        QTRY_VERIFY(said("password"));
        QVERIFY(!said("secret"));
        enter(QString::fromStdString(server_.address()));
        QTRY_VERIFY(grid().lineCount() > 0);
        QVERIFY(!card || !card->isVisible());
        // Among what was opened lately it stands under its name, and opens by a click.
        window_->showStart();
        QAbstractButton* again = called("postgres", window_->startPage());
        QVERIFY(again);
        QCOMPARE(again->toolTip(), QString::fromStdString(server_.address()));
        QTest::mouseClick(again, Qt::LeftButton);
        QTRY_VERIFY(window_->buildPage().isVisible());
        QTRY_VERIFY(!grid().isLoading());
    }

    void recordsOfAServerAreDesignedOnAndSaved() {
        QTemporaryDir folder;
        QVERIFY(
            window_->document().openDatabase(QString::fromStdString(server_.address()), QStringLiteral("jobs")).ok());
        window_->showScreen(MainWindow::Screen::Build);
        QTRY_COMPARE(grid().lineCount(), 300);
        QTRY_VERIFY(!grid().isLoading());
        QCOMPARE(grid().recordAt(0).text("vessel"), QString("Avocet"));
        // An edit is stored on the server, a refused one says why.
        grid().setValue(grid().recordAt(4), "hours", Decimal{4225, 2});
        QTRY_COMPARE(asked("SELECT hours FROM jobs WHERE number = 5"), QString("42.25"));
        QSignalSpy answered(&grid(), &Grid::editAnswered);
        grid().setValue(grid().recordAt(5), "hours", Decimal{20000, 2});
        QTRY_VERIFY(!answered.isEmpty() || grid().unsavedEdits() == 1);
        QCOMPARE(asked("SELECT hours FROM jobs WHERE number = 6"), QString("1.50"));
        // Kept in a design, which names the server, and opened again.
        const QString file = folder.filePath("jobs.jrow");
        QVERIFY(window_->document().save(file).ok());
        const auto read = readDesignFile(file.toStdString());
        QVERIFY(read.ok() && read->findings.empty());
        QCOMPARE(read->design.source.kind, std::string("postgresql"));
        QCOMPARE(read->design.source.path, server_.address());
        Grid form;
        QVERIFY(form.open(file).ok());
        QTRY_COMPARE(form.lineCount(), 300);
        QTRY_COMPARE(form.recordAt(4).text("hours"), QString("42.25"));
        // There is no trial, and that is said.
        window_->showScreen(MainWindow::Screen::Try);
        bool isSaid = false;
        for (const QLabel* label : window_->findChildren<QLabel*>())
            isSaid = isSaid || (label->isVisible() && label->text().contains("A trial works on a copy"));
        QVERIFY(isSaid);
        QVERIFY(window_->buildPage().isVisible() && !window_->tryPage().isVisible());
    }
};

QTEST_MAIN(ServerTest)
#include "tst_server.moc"
