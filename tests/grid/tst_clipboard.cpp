// SPDX-License-Identifier: MIT
// Out of the grid and back: three forms of a copy, headings, what does not fit; what selected cells come to; replacing
// what is found; look-ups by their labels. By real keys and the real clipboard.
#include <QtWidgets>

#include "grid/find/find_bar.h"
#include "grid/records/paste_card.h"
#include "grid/select/block_edit.h"
#include "tests/grid/window_helpers.h"

using namespace jollyrow;

class ClipboardTest : public QObject {
    Q_OBJECT
    int columnOf(const QString& field) {
        const auto& columns = grid().session().plan().columns;
        for (std::size_t i = 0; i < columns.size(); ++i)
            if (columns[i].design.field == field.toStdString()) return static_cast<int>(i);
        return -1;
    }

  private Q_SLOTS:
    void init() {
        w_ = std::make_unique<WindowHelpers>();
        QVERIFY(w_->open());
        grid().selection().setMode(SelectionMode::Cells);
    }
    void cleanup() { w_.reset(); }

    void aBlockIsCopiedInThreeForms() {
        w_->choose(4, "work");
        w_->key(Qt::Key_Right, Qt::ShiftModifier);
        w_->key(Qt::Key_Down, Qt::ShiftModifier);
        w_->key(Qt::Key_C, Qt::ControlModifier);
        QCOMPARE(clipboard().text(), QString("work 5\tIn hand\nwork 6\tIn hand\n"));
        QCOMPARE(clipboard().data("text/csv"), QByteArray("work 5,In hand\r\nwork 6,In hand\r\n"));
        QVERIFY(clipboard().html().contains("<tr><td>work 5</td><td>In hand</td></tr>"));
        w_->key(Qt::Key_C, Qt::ControlModifier | Qt::ShiftModifier);
        QVERIFY(clipboard().text().startsWith(heading("work") + "\t" + heading("status") + "\nwork 5"));
        QVERIFY(clipboard().html().contains("<th>" + heading("work") + "</th>"));
    }

    /// Tabs, quotes and line ends are parts of texts: they come back as what they were, in each form.
    void oddTextsComeBack() {
        std::mt19937 dice(4);
        const QString letters = QString::fromUtf8("ab\t\n\"', <&ü");
        QStringList texts;
        for (int i = 0; i < 40; ++i) {
            QString text = "x";
            for (std::size_t k = dice() % 8; k > 0; --k) text += letters[static_cast<int>(dice() % 11)];
            texts << text + "y";
            w_->storeNotes(i + 1, text + "y");
        }
        w_->storeNotes(1, "\"quoted\" at first");
        texts[0] = "\"quoted\" at first";
        grid().reload();
        QTRY_VERIFY(!grid().isLoading());
        QTRY_COMPARE(w_->text(0, "notes"), texts[0]);
        w_->choose(0, "notes");
        for (int i = 1; i < 40; ++i) w_->key(Qt::Key_Down, Qt::ShiftModifier);
        w_->key(Qt::Key_C, Qt::ControlModifier);
        const auto lines = cellsOf(clipboard().text());
        QCOMPARE(lines.size(), std::size_t{40});
        for (std::size_t i = 0; i < 40; ++i) QCOMPARE(lines[i], std::vector<QString>{texts[static_cast<int>(i)]});
        QVERIFY(clipboard().html().contains(texts[5].toHtmlEscaped().replace("\n", "<br>")));
        // And pasted elsewhere they are the same values.
        w_->choose(100, "notes");
        w_->key(Qt::Key_V, Qt::ControlModifier);
        for (int i = 0; i < 40; ++i)
            QTRY_COMPARE(w_->stored(qPrintable(QString("SELECT notes FROM jobs WHERE number = %1").arg(101 + i))),
                         texts[i]);
    }

    /// Whatever a column puts around its values or leaves out of them: what is copied and pasted onto itself stays as
    /// it was, and what is replaced is the value, not its looks.
    void whatIsPastedBackIsWhatItWas_data() {
        QTest::addColumn<QString>("field");
        QTest::addColumn<FormatSpec>("format");
        QTest::addColumn<bool>("isComposed");
        const auto row = [](const char* field, FormatSpec format, bool isComposed = false) {
            const QString name = QStringLiteral("%1 %2%3%4%5").arg(field);
            QTest::newRow(qPrintable(name.arg(QString::fromStdString(format.prefix))
                                         .arg(QString::fromStdString(format.pattern))
                                         .arg(QString::fromStdString(format.suffix))
                                         .arg(isComposed ? " composed" : "")))
                << QString(field) << format << isComposed;
        };
        const auto styled = [](FormatStyle style, const char* pattern = "") {
            FormatSpec spec;
            spec.style = style;
            spec.pattern = pattern;
            return spec;
        };
        const auto pattern = [&](const char* text) { return styled(FormatStyle::Pattern, text); };
        const auto within = [](const char* prefix, const char* suffix) {
            FormatSpec spec;
            spec.prefix = prefix;
            spec.suffix = suffix;
            return spec;
        };
        row("work", {});
        row("work", within("No. ", " !"));
        row("work", {}, true);
        row("work", styled(FormatStyle::Message, "{number}: {work}"));
        row("notes", within("“", "”"));
        row("status", {}, true);
        row("hours", within("about ", " h"));
        row("hours", pattern("#,##0"));  // leaves halves out
        row("hours", pattern("0.00E0"));
        row("hours", styled(FormatStyle::Duration));
        row("hours", {}, true);
        row("hours", styled(FormatStyle::Message, "{hours} of {work}"));
        row("due", pattern("d MMM"));  // leaves the year out
        row("due", pattern("EEE dd/MM/yy"));
        row("due", {}, true);
        row("paid", styled(FormatStyle::Words, "settled|open"));
        row("paid", {}, true);
        row("vessel", {}, true);
        row("vessel", within("MV ", ""));
    }
    void whatIsPastedBackIsWhatItWas() {
        QFETCH(QString, field);
        QFETCH(FormatSpec, format);
        QFETCH(bool, isComposed);
        w_->outside("UPDATE vessels SET name = name || id");  // a name means one record
        Design design = grid().design();
        ColumnDesign* column = design.column(field.toStdString());
        column->format = format;
        if (isComposed) {
            design.faces.push_back(
                {"several", face::row({face::field("number"), face::field(), face::text("{notes}")})});
            column->face = "several";
        }
        grid().setDesign(design);
        grid().reload();
        QTRY_VERIFY(!grid().isLoading());
        const char* all =
            "SELECT group_concat(number || '|' || ifnull(vessel, '-') || '|' || work || '|' || status || '|' "
            "|| ifnull(due, '-') || '|' || hours || '|' || paid || '|' || ifnull(notes, '-')) FROM jobs";
        const QString before = w_->stored(all);
        w_->choose(0, "number");  // a click turns a yes or no over
        grid().selection().setCurrentCell(0, columnOf(field));
        for (int i = 1; i < 30; ++i) w_->key(Qt::Key_Down, Qt::ShiftModifier);
        w_->key(Qt::Key_C, Qt::ControlModifier);
        w_->key(Qt::Key_V, Qt::ControlModifier);
        QTest::qWait(60);
        QTRY_COMPARE(grid().records().unsaved(), std::size_t{0});
        QVERIFY(!grid().findChild<PasteCard*>());
        QCOMPARE(w_->stored(all), before);
        // Pasted over other records it means the same there.
        grid().selection().setCurrentCell(32, columnOf(field));
        w_->key(Qt::Key_V, Qt::ControlModifier);
        const QString same = QStringLiteral(
                                 "SELECT count(*) FROM jobs a JOIN jobs b ON b.number = a.number + 32 WHERE "
                                 "a.number <= 30 AND a.%1 IS NOT b.%1")
                                 .arg(field);
        QTRY_COMPARE(w_->stored(qPrintable(same)), QString("0"));
        QVERIFY(!grid().findChild<PasteCard*>());
    }

    void whatIsLeftOutIsSaid() {
        w_->outside(
            "WITH RECURSIVE c(i) AS (SELECT 1000 UNION ALL SELECT i + 1 FROM c WHERE i < 101500) "
            "INSERT INTO jobs (number, work, status, paid) SELECT i, 'w', 'Done', 0 FROM c");
        grid().reload();
        QTRY_VERIFY(grid().lineCount() > 100'000);
        QTRY_VERIFY(!grid().isLoading());
        QSignalSpy said(&grid(), &Grid::failed);
        w_->choose(0, "work");
        w_->key(Qt::Key_End, Qt::ControlModifier | Qt::ShiftModifier);
        w_->key(Qt::Key_C, Qt::ControlModifier);
        QCOMPARE(clipboard().text().count(u'\n'), 100'000);
        QCOMPARE(said.size(), 1);
        QVERIFY2(said[0][0].toString().contains("701"), qPrintable(said[0][0].toString()));
    }

    // ---- What selected cells come to

    void selectedCellsAreSummedUp() {
        QSignalSpy told(&grid(), &Grid::selectionFigured);
        w_->choose(0, "hours");
        QTest::qWait(120);
        QCOMPARE(grid().selection().figures(), QString());  // one cell needs no sum
        for (int i = 0; i < 3; ++i) w_->key(Qt::Key_Down, Qt::ShiftModifier);
        QTRY_COMPARE(grid().selection().figures(),
                     QString("4 cells  ·  sum 12.00  ·  mean 3.00  ·  least 1.50  ·  largest 4.50"));
        QVERIFY(!told.isEmpty());
        // An edit counts at once.
        grid().records().setValue(grid().recordAt(0), "hours", Decimal{10'150, 2});
        QTRY_VERIFY2(grid().selection().figures().contains("sum 112.00"), qPrintable(grid().selection().figures()));
        w_->choose(0, "due");
        w_->key(Qt::Key_Down, Qt::ShiftModifier);
        QTRY_VERIFY2(grid().selection().figures().startsWith("2 cells  ·  least"),
                     qPrintable(grid().selection().figures()));
        w_->choose(0, "notes");
        for (int i = 0; i < 4; ++i) w_->key(Qt::Key_Down, Qt::ShiftModifier);
        QTRY_COMPARE(grid().selection().figures(), QString("5 cells  ·  1 filled"));
    }

    void selectedRecordsAreSummedUpInTheCurrentColumn() {
        grid().selection().setMode(SelectionMode::Rows);
        w_->choose(0, "hours");
        w_->key(Qt::Key_Down, Qt::ShiftModifier);
        QTRY_VERIFY2(grid().selection().figures().startsWith("2 cells  ·  sum 4.00"),
                     qPrintable(grid().selection().figures()));
    }

    /// What is deleted is selected no more, by whatever it was deleted.
    void deletedRecordsLeaveTheSelection() {
        grid().selection().setMode(SelectionMode::Rows);
        w_->choose(6, "hours");
        for (int i = 0; i < 3; ++i) w_->key(Qt::Key_Down, Qt::ShiftModifier);
        QTRY_VERIFY2(grid().selection().figures().startsWith("4 cells  ·  sum 36.00"),
                     qPrintable(grid().selection().figures()));
        QSignalSpy changed(&grid(), &Grid::selectionChanged);
        QVERIFY(grid().records().remove({grid().recordAt(8)}));  // 9.5 hours
        QTRY_COMPARE(grid().selection().count(), std::int64_t{3});
        QVERIFY(!changed.isEmpty());
        QTRY_VERIFY2(grid().selection().figures().startsWith("3 cells  ·  sum 26.50"),
                     qPrintable(grid().selection().figures()));
    }

    /// No window is held by a sum over all there is: it is said instead.
    void tooManyCellsAreNotSummedUp() {
        w_->outside(
            "WITH RECURSIVE c(i) AS (SELECT 1000 UNION ALL SELECT i + 1 FROM c WHERE i < 130999) "
            "INSERT INTO jobs (number, work, status, paid) SELECT i, 'w', 'Done', 0 FROM c");
        grid().reload();
        QTRY_VERIFY(grid().lineCount() > 130'000 && !grid().isLoading());
        w_->choose(0, "number");
        w_->key(Qt::Key_End, Qt::ControlModifier | Qt::ShiftModifier);
        w_->key(Qt::Key_End, Qt::ShiftModifier);
        QTRY_VERIFY2(grid().selection().figures().startsWith("More than 1"), qPrintable(grid().selection().figures()));
        QVERIFY(grid().selection().figures().endsWith("cells are not summed up"));
        w_->choose(0, "number");
        for (int i = 0; i < 2; ++i) w_->key(Qt::Key_Down, Qt::ShiftModifier);
        QTRY_VERIFY2(grid().selection().figures().startsWith("3 cells  ·  sum 6"),
                     qPrintable(grid().selection().figures()));
    }

    // ---- Replacing

    void whatIsFoundIsReplacedInOneColumn() {
        w_->choose(0, "work");
        w_->key(Qt::Key_H, Qt::ControlModifier);
        FindBar* bar = grid().findChild<FindBar*>();
        QVERIFY(bar);
        QTest::keyClicks(bar->entry(), "WORK 1");
        QTRY_VERIFY(bar->count().contains("111"));
        QTest::keyClicks(bar->with(), "task 1");
        QTest::keyClick(bar->with(), Qt::Key_Return, Qt::ControlModifier);
        QTRY_COMPARE(bar->count(), QString("111 replaced"));
        // What is found now are other records.
        const auto againFound = [&] {
            QTest::keyClick(bar->entry(), Qt::Key_Return);
            return bar->count();
        };
        QTRY_COMPARE(againFound(), QString("nothing found"));
        QTRY_COMPARE(w_->stored("SELECT count(*) FROM jobs WHERE work LIKE 'task 1%'"), QString("111"));
        QCOMPARE(w_->stored("SELECT work FROM jobs WHERE number = 21"), QString("work 21"));
        QTRY_COMPARE(grid().records().unsaved(), std::size_t{0});
        QVERIFY(grid().records().undo());  // one step
        QTRY_COMPARE(w_->stored("SELECT count(*) FROM jobs WHERE work LIKE 'task%'"), QString("0"));
    }

    void oneAfterAnotherIsReplaced() {
        w_->choose(0, "status");
        grid().openFind("In hand");
        FindBar* bar = grid().findChild<FindBar*>();
        QTRY_VERIFY(bar->count().startsWith("1 of"));
        for (QToolButton* button : bar->findChildren<QToolButton*>())
            if (button->text() == QStringLiteral("Replace…")) QTest::mouseClick(button, Qt::LeftButton);
        QVERIFY(bar->with()->isVisible());
        QTest::keyClicks(bar->with(), "Done");
        QTest::keyClick(bar->with(), Qt::Key_Return);
        QTRY_COMPARE(w_->stored("SELECT status FROM jobs WHERE number = 5"), QString("Done"));
        QCOMPARE(w_->stored("SELECT status FROM jobs WHERE number = 6"), QString("In hand"));
        QTest::keyClick(bar->with(), Qt::Key_Return);
        QTRY_COMPARE(w_->stored("SELECT status FROM jobs WHERE number = 6"), QString("Done"));
    }

    /// What stands around a value is neither found to be replaced nor written.
    void onlyTheValueIsReplaced() {
        Design design = grid().design();
        design.faces.push_back({"several", face::row({face::text("work"), face::field()})});
        design.column("work")->face = "several";
        design.column("work")->format.prefix = "work: ";
        grid().setDesign(design);
        w_->choose(0, "work");
        w_->key(Qt::Key_H, Qt::ControlModifier);
        FindBar* bar = grid().findChild<FindBar*>();
        QTest::keyClicks(bar->entry(), "work");
        QTRY_VERIFY(bar->count().contains("200"));
        QTest::keyClicks(bar->with(), "task");
        QTest::keyClick(bar->with(), Qt::Key_Return, Qt::ControlModifier);
        QTRY_COMPARE(bar->count(), QString("200 replaced"));
        QTRY_COMPARE(w_->stored("SELECT count(*) FROM jobs WHERE work = 'task ' || number"), QString("200"));
    }

    /// What would be no value any more is shown before anything is written.
    void whatCannotBeReplacedIsShown() {
        w_->choose(0, "hours");
        grid().openFind("hours: 1.5");
        FindBar* bar = grid().findChild<FindBar*>();
        QTRY_VERIFY(bar->count().contains("of"));
        w_->key(Qt::Key_H, Qt::ControlModifier);
        QTest::keyClicks(bar->with(), "long");
        QTest::keyClick(bar->with(), Qt::Key_Return, Qt::ControlModifier);
        QTRY_VERIFY(grid().findChild<PasteCard*>());
        QCOMPARE(w_->stored("SELECT hours FROM jobs WHERE number = 1"), QString("1.5"));
    }

    // ---- Look-ups

    void labelsArePastedAsWhatTheyStandFor() {
        w_->choose(0, "vessel");
        QCOMPARE(w_->text(0, "vessel"), QString("Otter's Due"));
        w_->key(Qt::Key_C, Qt::ControlModifier);
        w_->choose(1, "vessel");
        w_->key(Qt::Key_V, Qt::ControlModifier);
        QTRY_COMPARE(w_->stored("SELECT vessel FROM jobs WHERE number = 2"), QString("11"));
        QCOMPARE(w_->text(1, "vessel"), QString("Otter's Due"));
        // A key stands for itself.
        QApplication::clipboard()->setText("12");
        w_->key(Qt::Key_V, Qt::ControlModifier);
        QTRY_COMPARE(w_->stored("SELECT vessel FROM jobs WHERE number = 2"), QString("12"));
    }

    /// Two vessels are called Sandpiper: none of them is taken for the other.
    void labelsOfSeveralAreRefused() {
        QApplication::clipboard()->setText("Sandpiper");
        w_->choose(1, "vessel");
        const QString before = w_->stored("SELECT vessel FROM jobs WHERE number = 2");
        w_->key(Qt::Key_V, Qt::ControlModifier);
        QTRY_VERIFY(grid().findChild<PasteCard*>());
        QCOMPARE(w_->stored("SELECT vessel FROM jobs WHERE number = 2"), before);
        QCOMPARE(grid().records().unsaved(), std::size_t{0});
    }

    /// A second record of a name that no job here points to: the one that is linked here is not taken for it.
    void labelsAreSoughtInTheOtherTableNotHere() {
        w_->outside(
            "INSERT INTO vessels (id, name, owner) VALUES (901, 'Otter''s Due', 1), (902, 'Nobody''s', 2),"
            "(903, '12', 3)");
        QApplication::clipboard()->setText("Otter's Due");
        w_->choose(1, "vessel");
        const QString before = w_->stored("SELECT vessel FROM jobs WHERE number = 2");
        w_->key(Qt::Key_V, Qt::ControlModifier);
        QTRY_VERIFY(grid().findChild<PasteCard*>());
        QTest::keyClick(grid().findChild<PasteCard*>(), Qt::Key_Escape);
        QTRY_VERIFY(!grid().findChild<PasteCard*>());
        QCOMPARE(w_->stored("SELECT vessel FROM jobs WHERE number = 2"), before);
        // One that no record here points to is linked to all the same.
        QApplication::clipboard()->setText("Nobody's");
        w_->key(Qt::Key_V, Qt::ControlModifier);
        QTRY_COMPARE(w_->stored("SELECT vessel FROM jobs WHERE number = 2"), QString("902"));
        QCOMPARE(w_->text(1, "vessel"), QString("Nobody's"));
        // What a column shows comes before a key.
        QApplication::clipboard()->setText("12");
        w_->key(Qt::Key_V, Qt::ControlModifier);
        QTRY_COMPARE(w_->stored("SELECT vessel FROM jobs WHERE number = 2"), QString("903"));
        // A key that leads nowhere is none.
        QApplication::clipboard()->setText("4711");
        w_->key(Qt::Key_V, Qt::ControlModifier);
        QTRY_VERIFY(grid().findChild<PasteCard*>());
        QCOMPARE(w_->stored("SELECT vessel FROM jobs WHERE number = 2"), QString("903"));
    }

    /// Names among other values, over several columns and into records that are made by it.
    void namesAndValuesArePastedTogether() {
        const std::int64_t lines = grid().lineCount();
        w_->choose(static_cast<int>(lines) - 1, "vessel");
        const QString name = w_->stored("SELECT name FROM vessels WHERE id = 12");
        QApplication::clipboard()->setText(name + "\n" + name + "\nNobody at all\n");
        w_->key(Qt::Key_V, Qt::ControlModifier);
        QTRY_VERIFY(grid().findChild<PasteCard*>());  // the third is none
        for (QPushButton* button : grid().findChild<PasteCard*>()->findChildren<QPushButton*>())
            if (button->text().startsWith("Write the other")) QTest::mouseClick(button, Qt::LeftButton);
        QTRY_VERIFY(!grid().findChild<PasteCard*>());
        QTRY_COMPARE(grid().lineCount(), lines + 1);
        QCOMPARE(w_->text(static_cast<int>(lines) - 1, "vessel"), name);
        QCOMPARE(grid().recordAt(lines).value("vessel"), Value(std::int64_t{12}));
    }

    /// Records that were read again while the database was asked are other ones: none of them is written to instead.
    void namesOfAnEarlierReadingReachNoOtherRecord() {
        QApplication::clipboard()->setText(w_->stored("SELECT name FROM vessels WHERE id = 12"));
        w_->choose(1, "vessel");
        w_->outside("DELETE FROM jobs WHERE number = 1");
        const char* others = "SELECT group_concat(number || ':' || vessel) FROM jobs WHERE number <> 2";
        const QString before = w_->stored(others);
        w_->key(Qt::Key_V, Qt::ControlModifier);
        grid().reload();
        QTRY_VERIFY(!grid().isLoading() && grid().records().unsaved() == 0);
        QTest::qWait(50);
        QCOMPARE(w_->stored(others), before);
    }

  private:
    Grid& grid() { return w_->grid(); }
    class Board {
      public:
        QString text() const { return mime()->text(); }
        QString html() const { return mime()->html(); }
        QByteArray data(const char* type) const { return mime()->data(QLatin1String(type)); }

      private:
        static const QMimeData* mime() { return QApplication::clipboard()->mimeData(); }
    };
    static Board clipboard() { return {}; }
    QString heading(const char* field) { return QString::fromStdString(grid().design().column(field)->heading); }
    std::unique_ptr<WindowHelpers> w_;
};

QTEST_MAIN(ClipboardTest)
#include "tst_clipboard.moc"
