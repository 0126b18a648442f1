// SPDX-License-Identifier: MIT
// Read as, and the clocks of a zone, in the workbench's real window on a table that nobody made for us: days as texts,
// counts since 1970, J and N, numbers with commas. Chosen in Fittings, seen in the grid, edited, filtered, undone, kept
// in the design file.
#include <QtTest>

#include <QComboBox>
#include <QLabel>
#include <QLineEdit>

#include "core/design/design_file.h"
#include "core/session/session.h"
#include "tests/hasty.h"
#include "tests/sources/database.h"
#include "tests/workbench/open_window.h"
#include "workbench/app/main_window.h"
#include "workbench/build/build_page.h"
#include "workbench/fittings/fittings.h"

using namespace jollyrow;

class ReadingTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void initTestCase() { test::prepareWorkbench(); }
    void init() {
        folder_ = std::make_unique<QTemporaryDir>();
        database_ = folder_->filePath("log.db");
        run(database_,
            "CREATE TABLE log (id INTEGER PRIMARY KEY, due TEXT, begun INTEGER, paid TEXT, price TEXT, at TIMESTAMP);"
            "INSERT INTO log VALUES (1,'01.07.2026',1782892800,'J','1.234,50','2026-07-01T10:00:00Z'),"
            "(2,'15.01.2026',1768471200,'N','7,00','2026-01-15T10:00:00Z'),(3,'soon',0,'?','x','2026-10-25T00:30:00Z'"
            ")");
        window_ = test::shownWindow();
        QVERIFY(window_);
        window_->openPath(database_);
        QTRY_COMPARE(grid().lineCount(), 3);
        QTRY_VERIFY(!grid().isLoading());
        setZone("Europe/Berlin");
    }

    void aPatternMakesDays() {
        choose("due", 1);
        // It waits for its pattern.
        QVERIFY(document().design().source.readAs.empty());
        enter("Pattern of the stored texts", "dd.MM.YYYY");
        QVERIFY(said("The letter Y is not read here"));
        QVERIFY(document().design().source.readAs.empty());
        enter("Pattern of the stored texts", "dd.MM.yyyy");
        QTRY_COMPARE(text(0, "due"), QString("1 Jul 2026"));
        QVERIFY(schemaType("due") == Type::Date);
        QVERIFY(!said("The letter Y"));
        QTRY_VERIFY(said("1 of 3 do not fit, the first: soon"));
        QCOMPARE(text(2, "due"), QString("soon"));
        QCOMPARE(build().selectedColumn().value_or(""), QString("due"));
        edit(0, "due", "2 Aug 2026");
        QTRY_COMPARE(stored("due", 1), QString("02.08.2026"));
        // Sorted by day, not by text.
        QTest::mouseClick(grid().viewport(), Qt::LeftButton, {}, grid().places().heading("due").center());
        QTRY_COMPARE(text(0, "due"), QString("15 Jan 2026"));
        document().undo();  // the sort
        document().undo();  // the edit
        QTRY_COMPARE(stored("due", 1), QString("01.07.2026"));
        document().undo();
        QTRY_COMPARE(text(0, "due"), QString("01.07.2026"));
        QVERIFY(schemaType("due") == Type::Text);
        document().redo();
        QTRY_COMPARE(text(0, "due"), QString("1 Jul 2026"));
    }

    void countsAreShownOnTheZonesClocks() {
        choose("begun", 2);
        QTRY_COMPARE(text(0, "begun"), QString("1 Jul 2026 10:00"));
        QCOMPARE(text(2, "begun"), QString("1 Jan 1970 01:00"));
        setZone("America/New_York");
        QTRY_COMPARE(text(0, "begun"), QString("1 Jul 2026 04:00"));
        QCOMPARE(text(0, "at"), QString("1 Jul 2026 06:00"));
        edit(0, "begun", "1 Jul 2026 05:00");
        QTRY_COMPARE(stored("begun", 1), QString("1782896400"));
        QCOMPARE(text(0, "begun"), QString("1 Jul 2026 05:00"));
        // A name that is none changes nothing.
        setZone("Europe/Atlantis");
        QCOMPARE(document().design().source.zone, std::string("America/New_York"));
        document().undo();
        document().undo();
        QTRY_COMPARE(text(0, "at"), QString("1 Jul 2026 12:00"));
    }

    void wordsAndNumbers() {
        choose("paid", 5);
        enter("Word for yes", "J");
        enter("Word for no", "N");
        QTRY_VERIFY(schemaType("paid") == Type::Boolean);
        QTRY_COMPARE(text(2, "paid"), QString("?"));
        choose("price", 4);
        QTRY_VERIFY(schemaType("price") == Type::Decimal);
        auto* sign = fitting<QComboBox>("Decimal sign");
        sign->setCurrentIndex(1);
        Q_EMIT sign->activated(1);
        QTRY_COMPARE(text(0, "price"), QString("1\u2009234.5"));
        QTRY_VERIFY(said("1 of 3 do not fit, the first: x"));
        edit(1, "price", "8.25");
        QTRY_COMPARE(stored("price", 2), QString("8,25"));
    }

    void conditionsOnMomentsMeanTheZonesDays() {
        QVERIFY(grid().filters().setEntry("at", "25 Oct 2026").ok());
        QTRY_COMPARE(grid().lineCount(), 1);  // 00:30Z is 02:30 in Berlin
        QCOMPARE(text(0, "at"), QString("25 Oct 2026 02:30 +02:00"));
        QVERIFY(grid().filters().setEntry("at", "> 1 Feb 2026").ok());
        QTRY_COMPARE(grid().lineCount(), 2);
        QVERIFY(grid().filters().setEntry("at", "").ok());
        QTRY_COMPARE(grid().lineCount(), 3);
    }

    void allOfItIsKeptInTheFile() {
        choose("due", 1);
        enter("Pattern of the stored texts", "dd.MM.yyyy");
        choose("begun", 3);
        QTRY_VERIFY(schemaType("begun") == Type::Instant);
        const QString path = folder_->filePath("log.jrow");
        QVERIFY(document().save(path).ok());
        const Design kept = document().design();
        QCOMPARE(toText(kept.source.readAs.at("due")), std::string("date dd.MM.yyyy"));
        window_ = test::shownWindow();
        window_->openPath(path);
        QTRY_COMPARE(grid().lineCount(), 3);
        QVERIFY(document().design().source.readAs == kept.source.readAs);
        QCOMPARE(document().design().source.zone, kept.source.zone);
        QVERIFY(document().design().columns == kept.columns);
        QTRY_COMPARE(text(0, "due"), QString("1 Jul 2026"));
        QVERIFY(grid().session().plan().findings.empty());
    }

    /// Another program holds the database while it is chosen: the window goes on, timers among it, until it lets go.
    void aLockedDatabaseIsWaitedForAlive() {
        window_ = test::shownWindow();
        sqlite3* other = nullptr;
        sqlite3_open(database_.toUtf8().constData(), &other);
        QCOMPARE(sqlite3_exec(other, "BEGIN EXCLUSIVE", nullptr, nullptr, nullptr), SQLITE_OK);
        int beats = 0;
        QTimer heart;
        connect(&heart, &QTimer::timeout, this, [&beats] { ++beats; });
        heart.start(20);
        // The lock is let go by the very thread that waits: only if that goes on.
        QTimer::singleShot(400, this, [other] {
            sqlite3_exec(other, "COMMIT", nullptr, nullptr, nullptr);
            sqlite3_close(other);
        });
        const Hasty hasty;
        window_->openPath(database_);
        QVERIFY(beats >= 5);
        QTRY_COMPARE(grid().lineCount(), 3);
    }

  private:
    Grid& grid() { return window_->buildPage().grid(); }
    BuildPage& build() { return window_->buildPage(); }
    Document& document() { return window_->document(); }

    template <class W>
    W* fitting(const QString& accessibleName) {
        for (W* widget : build().fittings().template findChildren<W*>())
            if (widget->accessibleName() == accessibleName) return widget;
        return nullptr;
    }
    bool said(const QString& words) {
        for (const QLabel* label : build().fittings().findChildren<QLabel*>())
            if (label->isVisibleTo(&build().fittings()) && label->text().contains(words)) return true;
        return false;
    }
    /// Selects the column and picks how it is read.
    void choose(const QString& field, int form) {
        build().selectColumn(field);
        auto* forms = fitting<QComboBox>("Read as");
        QVERIFY(forms && forms->isVisibleTo(&build().fittings()));
        forms->setCurrentIndex(form);
        Q_EMIT forms->activated(form);
    }
    void enter(const QString& entry, const QString& typed) {
        auto* line = fitting<QLineEdit>(entry);
        QVERIFY(line && line->isVisibleTo(&build().fittings()));
        line->setFocus();
        line->selectAll();
        QTest::keyClicks(line, typed);
        QTest::keyClick(line, Qt::Key_Return);
    }
    void setZone(const QString& name) {
        build().selectColumn(std::nullopt);
        enter("Time zone", name);
        QTRY_VERIFY(!grid().isLoading());
    }
    QString text(std::int64_t line, const char* field) { return grid().recordAt(line).text(field); }
    Type schemaType(const char* field) {
        const TableSchema& schema = grid().session().schema();
        return schema.field(*schema.find(field)).type;
    }
    void edit(std::int64_t line, const char* field, const QString& typed) {
        QTest::mouseDClick(grid().viewport(), Qt::LeftButton, {}, grid().places().cell(line, field).center());
        auto* entry = grid().viewport()->findChild<QLineEdit*>("cellEntry");
        QVERIFY(entry);
        entry->selectAll();
        QTest::keyClicks(entry, typed);
        QTest::keyClick(entry, Qt::Key_Return);
    }
    QString stored(const char* field, int id) {
        sqlite3* db = nullptr;
        sqlite3_open(database_.toUtf8().constData(), &db);
        sqlite3_stmt* row = nullptr;
        sqlite3_prepare_v2(db,
                           QStringLiteral("SELECT %1 FROM log WHERE id = %2").arg(field).arg(id).toUtf8().constData(),
                           -1, &row, nullptr);
        sqlite3_step(row);
        const QString out = QString::fromUtf8(reinterpret_cast<const char*>(sqlite3_column_text(row, 0)));
        sqlite3_finalize(row);
        sqlite3_close(db);
        return out;
    }

    std::unique_ptr<QTemporaryDir> folder_;
    QString database_;
    std::unique_ptr<MainWindow> window_;
};

QTEST_MAIN(ReadingTest)
#include "tst_reading.moc"
