// SPDX-License-Identifier: MIT
// A database on a server in the workbench's real window: asked for by its address, shown, edited into the server, saved
// as a design and opened again; what goes wrong is said where it was asked.
#include <QtTest>

#include <QAbstractButton>
#include <QDirIterator>
#include <QLabel>
#include <QLineEdit>
#include <QProcess>
#include <QPushButton>

#include <pty.h>
#include <sys/wait.h>
#include <unistd.h>

#include "core/design/design_file.h"
#include "core/session/session.h"
#include "core/sources/credentials.h"
#include "tests/rules/postgres_server.h"
#include "tests/workbench/open_window.h"
#include "workbench/app/secret_store.h"
#include "workbench/app/start_page.h"
#include "workbench/build/build_page.h"
#include "workbench/popovers/server_popover.h"
#include "workbench/try/try_page.h"

using namespace jollyrow;

namespace {

/// A store of the test's own: nobody's real one is written to.
class FakeStore final : public SecretStore {
  public:
    std::map<QString, QString>& kept;
    QString refusal;
    explicit FakeStore(std::map<QString, QString>& all) : kept(all) {}
    void read(const QString& address, std::function<void(std::optional<QString>)> found) override {
        const auto one = kept.find(address);
        QTimer::singleShot(0, qApp,
                           [found, is = one != kept.end(), word = one != kept.end() ? one->second : QString()] {
                               found(is ? std::optional(word) : std::nullopt);
                           });
    }
    void write(const QString& address, const QString& password, std::function<void(QString)> done) override {
        if (refusal.isEmpty()) kept[address] = password;
        done(refusal);
    }
};

/// A program in a terminal of its own: what it showed, and what it is told when it has shown `until`.
QByteArray inTerminal(const QStringList& arguments, const QByteArray& until, const QByteArray& typed) {
    int terminal = -1;
    const pid_t child = forkpty(&terminal, nullptr, nullptr, nullptr);
    if (child == 0) {
        std::vector<QByteArray> words = {PROGRAM};
        for (const QString& argument : arguments) words.push_back(argument.toUtf8());
        std::vector<char*> pointers;
        for (QByteArray& word : words) pointers.push_back(word.data());
        pointers.push_back(nullptr);
        execv(PROGRAM, pointers.data());
        _exit(127);
    }
    QByteArray shown;
    bool isTold = false;
    for (char bytes[4096];;) {
        const ssize_t count = ::read(terminal, bytes, sizeof bytes);
        if (count <= 0) break;
        shown.append(bytes, count);
        if (isTold || !shown.contains(until)) continue;
        isTold = true;
        if (::write(terminal, typed.constData(), static_cast<std::size_t>(typed.size())) < 0) break;
    }
    waitpid(child, nullptr, 0);
    close(terminal);
    return shown;
}

}  // namespace

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

    static bool shows(const QWidget& in, const QString& words) {
        for (const QLabel* label : in.findChildren<QLabel*>())
            if (label->isVisible() && label->text().contains(words)) return true;
        return false;
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
        const auto said = [&](const QString& words) { return shows(*card, words); };
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

    void aPasswordIsAskedForAndKeptByChoiceOnly() {
        std::map<QString, QString> kept;
        setSecretStore(std::make_unique<FakeStore>(kept));
        QCOMPARE(server_.makeRole("clerk", "slack-tide"), std::string());
        QCOMPARE(server_.execute("GRANT SELECT ON ALL TABLES IN SCHEMA public TO clerk"), std::string());
        const QString address = QString::fromStdString(server_.address("postgres", "clerk"));
        QTest::mouseClick(called("Open a database on a server…", window_->startPage()), Qt::LeftButton);
        QPointer<ServerPopover> card = window_->findChild<ServerPopover*>();
        QVERIFY(card);
        auto* password = card->findChild<QLineEdit*>("serverPassword");
        QVERIFY(!password->isVisible());
        QTest::keyClicks(card->entry(), address);
        QTest::keyClick(card->entry(), Qt::Key_Return);
        QTRY_VERIFY(password->isVisible() && password->hasFocus());
        QCOMPARE(password->echoMode(), QLineEdit::Password);
        QTest::keyClicks(password, "ebb");
        QTest::keyClick(password, Qt::Key_Return);
        QTRY_VERIFY(shows(*card, "did not take this password"));
        password->selectAll();
        QTest::keyClicks(password, "slack-tide");
        QTest::mouseClick(card->findChild<QAbstractButton*>("keepPassword"), Qt::LeftButton);
        QTest::mouseClick(card->findChild<QAbstractButton*>("connectServer"), Qt::LeftButton);
        QTRY_VERIFY(grid().lineCount() > 0);
        QCOMPARE(kept[address], QString("slack-tide"));

        // A design does not have it, nor do the settings; opened again, the store is asked.
        QTemporaryDir folder;
        const QString file = folder.filePath("clerk.jrow");
        QVERIFY(window_->document().save(file).ok());
        QDirIterator written(QStandardPaths::writableLocation(QStandardPaths::GenericConfigLocation), QDir::Files,
                             QDirIterator::Subdirectories);
        QStringList files = {file};
        while (written.hasNext()) files << written.next();
        for (const QString& name : files) {
            QFile one(name);
            QVERIFY(!one.open(QIODevice::ReadOnly) || !one.readAll().contains("slack-tide"));
        }
        forgetPassword(address.toStdString());
        window_ = test::shownWindow();
        window_->openPath(file);
        QTRY_VERIFY(window_->buildPage().isVisible() && grid().lineCount() > 0);
        QVERIFY(!window_->findChild<ServerPopover*>());

        // The store's is an old one: it is asked for, and the design opens then.
        QCOMPARE(server_.execute("ALTER ROLE clerk PASSWORD 'spring-tide'"), std::string());
        forgetPassword(address.toStdString());
        window_ = test::shownWindow();
        window_->openPath(file);
        QTRY_VERIFY(window_->findChild<ServerPopover*>());
        card = window_->findChild<ServerPopover*>();
        QCOMPARE(card->entry()->text(), address);
        password = card->findChild<QLineEdit*>("serverPassword");
        QVERIFY(password->isVisible());
        QTest::keyClicks(password, "spring-tide");
        QTest::keyClick(password, Qt::Key_Return);
        QTRY_VERIFY(window_->buildPage().isVisible() && grid().lineCount() > 0);
        QCOMPARE(kept[address], QString("slack-tide"));  // nobody asked to keep the new one
        QCOMPARE(window_->document().designPath(), file);
    }

    void withoutAStoreItIsSaid() {
        std::map<QString, QString> kept;
        auto store = std::make_unique<FakeStore>(kept);
        store->refusal = "there is no store";
        setSecretStore(std::move(store));
        const std::string address = server_.address("postgres", "clerk");
        forgetPassword(address);
        window_->openPath(QString::fromStdString(address));
        QTRY_VERIFY(window_->findChild<ServerPopover*>());
        auto* card = window_->findChild<ServerPopover*>();
        QTest::keyClicks(card->findChild<QLineEdit*>("serverPassword"), "spring-tide");
        QTest::mouseClick(card->findChild<QAbstractButton*>("keepPassword"), Qt::LeftButton);
        QTest::keyClick(card->findChild<QLineEdit*>("serverPassword"), Qt::Key_Return);
        QTRY_VERIFY(grid().lineCount() > 0);
        QVERIFY(kept.empty());
    }

    void aTerminalAsksUnseen() {
        const QString address = QString::fromStdString(server_.address("postgres", "clerk"));
        const QStringList rows = {"rows", address, "--table", "vessels"};
        const QByteArray shown = inTerminal(rows, "Password: ", "spring-tide\n");
        QVERIFY2(shown.contains("Bittern") && !shown.contains("spring-tide"), shown.constData());
        const QByteArray given = inTerminal(rows, "Password: ", "\n");
        QVERIFY2(given.contains("PGPASSWORD") && !given.contains("Bittern"), given.constData());
        QProcess pipe;  // no terminal: no question
        pipe.start(PROGRAM, rows);
        QVERIFY(pipe.waitForFinished(30'000));
        QCOMPARE(pipe.exitCode(), 1);
        QVERIFY2(pipe.readAllStandardError().contains("asks clerk for a password"), "");
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
        grid().records().setValue(grid().recordAt(4), "hours", Decimal{4225, 2});
        QTRY_COMPARE(asked("SELECT hours FROM jobs WHERE number = 5"), QString("42.25"));
        QSignalSpy answered(&grid(), &Grid::editAnswered);
        grid().records().setValue(grid().recordAt(5), "hours", Decimal{20000, 2});
        QTRY_VERIFY(!answered.isEmpty() || grid().records().unsaved() == 1);
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
        // What others save: switched on, the trigger is shown, copied, run by its owner; then it is seen.
        window_->document().apply(
            [&] {
                Design next = window_->document().design();
                next.grid.followsOthers = true;
                return next;
            }(),
            "Show what others save");
        auto* how = window_->findChild<QPushButton*>("trigger");
        QVERIFY(how && !how->isHidden());
        how->click();
        auto* sql = window_->findChild<QPlainTextEdit*>("triggerSql");
        QVERIFY(sql && sql->isVisible() && sql->toPlainText().contains("ON \"jobs\""));
        window_->findChild<QPushButton*>("copyTrigger")->click();
        QCOMPARE(server_.execute(QGuiApplication::clipboard()->text().toStdString()), std::string());
        grid().reload();
        QTRY_VERIFY(!grid().isLoading());
        QCOMPARE(server_.execute("UPDATE jobs SET hours = 9.75 WHERE number = 9"), std::string());
        QTest::qWait(500);
        window_->document().undo();
        QVERIFY(how->isHidden());
        window_->document().redo();
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
