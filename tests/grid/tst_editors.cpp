// SPDX-License-Identifier: MIT
// Editors by kind, by real keys and mouse: several lines, ratings, colours, patterns, lists of numbers, three states;
// and that none of them changes a text that nobody changed.
#include <QtWidgets>

#include <cmath>

#include "grid/editors/colour_card.h"
#include "grid/editors/rating_editor.h"
#include "grid/editors/text_editor.h"
#include "grid/paint/tokens.h"
#include "tests/grid/window_helpers.h"

using namespace jollyrow;

class EditorsTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void init() {
        w_ = std::make_unique<WindowHelpers>();
        w_->outside(
            "ALTER TABLE jobs ADD COLUMN stars INTEGER; ALTER TABLE jobs ADD COLUMN paint TEXT;"
            "ALTER TABLE jobs ADD COLUMN code TEXT; ALTER TABLE jobs ADD COLUMN warm BOOLEAN;"
            "ALTER TABLE jobs ADD COLUMN week NUMBER LIST; ALTER TABLE jobs ADD COLUMN at TIMESTAMP;"
            "UPDATE jobs SET stars = 2, paint = '#1f6f6b', code = 'JOB-0001', at = '2026-03-04 10:30:00'");
    }
    void cleanup() { w_.reset(); }

    // ---- Several lines

    void severalLinesAreTyped() {
        QVERIFY(open("notes", {EntryKind::Lines}));
        w_->choose(0, "notes");
        w_->key(Qt::Key_F2);
        QPlainTextEdit* text = lines();
        QVERIFY(text);
        QTest::keyClicks(text, "one");
        QTest::keyClick(text, Qt::Key_Return, Qt::ShiftModifier);
        QTest::keyClicks(text, "two");
        const int before = text->parentWidget()->height();
        QVERIFY(before > grid().places().cell(0, "notes").height());  // it drops down
        for (int i = 0; i < 6; ++i) QTest::keyClick(text, Qt::Key_Return, Qt::ShiftModifier);
        QVERIFY(text->parentWidget()->height() > before);  // and grows
        QVERIFY(grid().viewport()->rect().contains(text->parentWidget()->geometry()));
        for (int i = 0; i < 6; ++i) QTest::keyClick(text, Qt::Key_Backspace);
        QTest::keyClick(text, Qt::Key_Return);
        QTRY_COMPARE(w_->stored("SELECT notes FROM jobs WHERE number = 1"), QString("one\ntwo"));
    }

    void escapePutsBackAndTabGoesOn() {
        QVERIFY(open("notes", {EntryKind::Lines}));
        w_->choose(3, "notes");
        w_->key(Qt::Key_F2);
        QTest::keyClicks(lines(), "gone");
        QTest::keyClick(lines(), Qt::Key_Escape);
        QVERIFY(!lines());
        QVERIFY(grid().records().unsaved() == 0);
        w_->key(Qt::Key_F2);
        QTest::keyClicks(lines(), "kept");
        QTest::keyClick(lines(), Qt::Key_Backtab);
        QTRY_COMPARE(w_->stored("SELECT notes FROM jobs WHERE number = 4"), QString("kept"));
        QVERIFY(grid().selection().currentCell()->column < *columnOf("notes"));
    }

    /// What stands there is what stands there after the editor was opened and left, and after a letter was typed, all
    /// but the letter.
    void oddTextsComeBack_data() {
        QTest::addColumn<QString>("text");
        QTest::newRow("line ends of two characters") << "a\r\nb\r\nc";
        QTest::newRow("of both kinds") << "a\r\nb\nc";
        QTest::newRow("a lone return") << "a\rb";
        QTest::newRow("spaces that do not break") << QString("4\u00a0500\u202fkg");
        QTest::newRow("tabs and blanks at the end") << "\ta \n b\t ";
        QTest::newRow("empty lines") << "\n\na\n\n";
        QTest::newRow("a line separator") << QString("a\u2028b");
        QTest::newRow("long") << QString(50'000, u'x');
        QTest::newRow("signs beyond 16 bits") << QString::fromUtf8("🛥 über 🛥");
    }
    void oddTextsComeBack() {
        QFETCH(QString, text);
        for (const EntryKind kind : {EntryKind::Lines, EntryKind::Line}) {
            w_->storeNotes(1, text);
            QVERIFY(open("notes", {kind}));
            w_->choose(0, "notes");
            w_->key(Qt::Key_F2);
            QWidget* entry = kind == EntryKind::Lines ? static_cast<QWidget*>(lines()) : w_->entry();
            QVERIFY(entry);
            QTest::keyClick(entry, Qt::Key_Return);
            QCOMPARE(grid().records().unsaved(), std::size_t{0});
            QCOMPARE(storedText(), text);
            w_->choose(0, "notes");
            w_->key(Qt::Key_F2);
            entry = kind == EntryKind::Lines ? static_cast<QWidget*>(lines()) : w_->entry();
            QTest::keyClick(entry, Qt::Key_End, Qt::ControlModifier);
            QTest::keyClicks(entry, "z");
            QTest::keyClick(entry, Qt::Key_Return);
            if (text.contains(QChar(0x2028)) && kind == EntryKind::Lines) {  // it ends a line there
                QTRY_COMPARE(storedText(), QString(text).replace(QChar(0x2028), u'\n') + u'z');
                continue;
            }
            QTRY_COMPARE(storedText(), text + u'z');
        }
    }

    void wrappedColumnsAreEnteredInLines() {
        Design design = w_->design();
        design.column("notes")->wrap = true;
        QVERIFY(w_->open(design));
        w_->choose(0, "notes");
        w_->key(Qt::Key_F2);
        QVERIFY(lines());
    }

    // ---- Ratings

    void aRatingIsSetByMouseAndKeys() {
        QVERIFY(open("stars", {EntryKind::Rating, 5}));
        w_->choose(0, "stars");
        w_->key(Qt::Key_F2);
        auto* rating = grid().viewport()->findChild<RatingEditor*>();
        QVERIFY(rating);
        QTest::mouseClick(rating, Qt::LeftButton, {}, QPoint(8 + 18 * 3 + 5, rating->height() / 2));
        QTRY_COMPARE(w_->stored("SELECT stars FROM jobs WHERE number = 1"), QString("4"));
        w_->choose(1, "stars");
        w_->key(Qt::Key_F2);
        rating = visible<RatingEditor>();
        QTest::keyClick(rating, Qt::Key_Right);
        QTest::keyClick(rating, Qt::Key_Return);
        QTRY_COMPARE(w_->stored("SELECT stars FROM jobs WHERE number = 2"), QString("3"));
        w_->choose(2, "stars");
        QTest::keyClicks(&grid(), "5");
        QTest::keyClick(visible<RatingEditor>(), Qt::Key_Tab);
        QTRY_COMPARE(w_->stored("SELECT stars FROM jobs WHERE number = 3"), QString("5"));
        w_->choose(3, "stars");
        w_->key(Qt::Key_F2);
        QTest::keyClick(visible<RatingEditor>(), Qt::Key_Delete);
        QTest::keyClick(visible<RatingEditor>(), Qt::Key_Return);
        QTRY_COMPARE(w_->stored("SELECT coalesce(stars, 'none') FROM jobs WHERE number = 4"), QString("none"));
    }

    /// What is typed and no mark stands for changes nothing, and is said.
    void aRatingTakesNoOtherNumberThanTheOneTyped() {
        QVERIFY(open("stars", {EntryKind::Rating, 5}));
        w_->choose(0, "stars");
        QTest::keyClicks(&grid(), "9");
        QVERIFY(grid().message().contains("0 to 5"));
        QTest::keyClicks(visible<RatingEditor>(), "7");
        QVERIFY(grid().message().contains("0 to 5"));
        QTest::keyClick(visible<RatingEditor>(), Qt::Key_Return);
        QTest::qWait(30);
        QCOMPARE(w_->stored("SELECT stars FROM jobs WHERE number = 1"), QString("2"));
        QCOMPARE(grid().records().unsaved(), std::size_t{0});
        w_->choose(1, "stars");
        QTest::keyClicks(&grid(), "x");
        if (auto* rating = visible<RatingEditor>()) QTest::keyClick(rating, Qt::Key_Return);
        QTest::qWait(30);
        QCOMPARE(w_->stored("SELECT stars FROM jobs WHERE number = 2"), QString("2"));
    }

    /// A number that no marks show is not taken for one that they do.
    void aRatingOutsideItsMarksStays() {
        w_->outside("UPDATE jobs SET stars = 17 WHERE number = 1");
        QVERIFY(open("stars", {EntryKind::Rating, 5}));
        w_->choose(0, "stars");
        w_->key(Qt::Key_F2);
        QTest::keyClick(visible<RatingEditor>(), Qt::Key_Return);
        QCOMPARE(w_->stored("SELECT stars FROM jobs WHERE number = 1"), QString("17"));
        QCOMPARE(grid().records().unsaved(), std::size_t{0});
    }

    // ---- Colours

    void aColourIsTypedOrChosen() {
        QVERIFY(open("paint", {EntryKind::Colour}));
        w_->choose(0, "paint");
        w_->edit("ABC");
        QTRY_COMPARE(w_->stored("SELECT paint FROM jobs WHERE number = 1"), QString("#aabbcc"));
        w_->choose(0, "paint");
        w_->key(Qt::Key_F2);
        w_->enter("reddish");
        QVERIFY(w_->entry());  // it stays, with the reason
        QVERIFY(grid().message().contains("no colour"));
        QTest::keyClick(w_->entry(), Qt::Key_Escape);
        w_->choose(1, "paint");
        w_->key(Qt::Key_F2);
        QTest::keyClick(w_->entry(), Qt::Key_Down, Qt::AltModifier);
        QPointer<ColourCard> card = grid().findChild<ColourCard*>();
        QVERIFY(card);
        QTest::keyClick(card, Qt::Key_Right);
        QTest::keyClick(card, Qt::Key_Return);
        QTRY_VERIFY(w_->stored("SELECT paint FROM jobs WHERE number = 2") != "#1f6f6b");
        QVERIFY(QColor(w_->stored("SELECT paint FROM jobs WHERE number = 2")).isValid());
    }

    // ---- Patterns

    /// A look-up shows labels and stores keys: its pattern is of the keys, and no label is typed to it.
    void aLookUpIsChosenWhateverItsPattern() {
        w_->outside(
            "CREATE TABLE paints (code TEXT PRIMARY KEY, name TEXT); INSERT INTO paints VALUES ('P-1', 'Tar'), ('P-2', "
            "'Rust'); ALTER TABLE jobs ADD COLUMN coat TEXT REFERENCES paints(code)");
        EntryDesign entry;
        entry.pattern = "P-[0-9]";
        QVERIFY(open("coat", entry));
        w_->choose(0, "coat");
        w_->key(Qt::Key_F2);
        QTRY_VERIFY(w_->entry());
        w_->entry()->selectAll();
        QTest::keyClicks(w_->entry(), "Rust");
        QCOMPARE(w_->entry()->text(), QString("Rust"));
        QTest::qWait(120);
        QTest::keyClick(w_->entry(), Qt::Key_Tab);
        QTRY_COMPARE(w_->stored("SELECT coat FROM jobs WHERE number = 1"), QString("P-2"));
        QCOMPARE(w_->text(0, "coat"), QString("Rust"));
    }

    void whatCannotMatchIsNotTaken() {
        QVERIFY(open("code", {EntryKind::Automatic, 5, "JOB-\\d{4}"}));
        w_->choose(0, "code");
        w_->key(Qt::Key_F2);
        w_->entry()->selectAll();
        QTest::keyClicks(w_->entry(), "J");
        QCOMPARE(w_->entry()->text(), QString("JOB-"));  // filled in
        QTest::keyClicks(w_->entry(), "1x2");
        QCOMPARE(w_->entry()->text(), QString("JOB-12"));
        QTest::keyClick(w_->entry(), Qt::Key_Return);
        QVERIFY(w_->entry());  // it is not whole
        QVERIFY2(grid().message().contains("must match"), qPrintable(grid().message()));
        QTest::keyClicks(w_->entry(), "34");
        QTest::keyClick(w_->entry(), Qt::Key_Return);
        QTRY_COMPARE(w_->stored("SELECT code FROM jobs WHERE number = 1"), QString("JOB-1234"));
    }

    void backspaceTakesBackWhatWasFilledIn() {
        QVERIFY(open("code", {EntryKind::Automatic, 5, "JOB-\\d{4}"}));
        w_->choose(0, "code");
        QTest::keyClicks(&grid(), "J");
        QVERIFY(w_->entry());
        QCOMPARE(w_->entry()->text(), QString("JOB-"));
        for (int i = 0; i < 4; ++i) QTest::keyClick(w_->entry(), Qt::Key_Backspace);
        QCOMPARE(w_->entry()->text(), QString());
        QTest::keyClick(w_->entry(), Qt::Key_Escape);
    }

    void whatStoodThereBeforeCanBePutRight() {
        w_->outside("UPDATE jobs SET code = 'job 12 x' WHERE number = 1");
        QVERIFY(open("code", {EntryKind::Automatic, 5, "JOB-\\d{4}"}));
        w_->choose(0, "code");
        w_->key(Qt::Key_F2);
        QCOMPARE(w_->entry()->text(), QString("job 12 x"));
        QTest::keyClick(w_->entry(), Qt::Key_Return);
        QCOMPARE(grid().records().unsaved(), std::size_t{0});  // left as it is
        w_->choose(0, "code");
        w_->key(Qt::Key_F2);
        QTest::keyClick(w_->entry(), Qt::Key_End);
        QTest::keyClick(w_->entry(), Qt::Key_Backspace);
        QCOMPARE(w_->entry()->text(), QString("job 12 "));
    }

    void pastedTextsMustMatchToo() {
        QVERIFY(open("code", {EntryKind::Automatic, 5, "JOB-\\d{4}"}));
        w_->choose(0, "code");
        QApplication::clipboard()->setText("nonsense");
        w_->key(Qt::Key_V, Qt::ControlModifier);
        QTest::qWait(30);
        QCOMPARE(w_->stored("SELECT code FROM jobs WHERE number = 1"), QString("JOB-0001"));
    }

    /// A dark grid in a light form: what is typed, and what is said about it, stands off from it, as in a light one.
    void editorsAreLegibleInEveryTheme() {
        const auto contrast = [](const QColor& ink, const QColor& paper) {
            const auto light = [](const QColor& c) {
                const auto part = [](double v) {
                    return v <= 0.03928 ? v / 12.92 : std::pow((v + 0.055) / 1.055, 2.4);
                };
                return 0.2126 * part(c.redF()) + 0.7152 * part(c.greenF()) + 0.0722 * part(c.blueF());
            };
            const double a = light(ink), b = light(paper);
            return (std::max(a, b) + 0.05) / (std::min(a, b) + 0.05);
        };
        for (const GridTheme theme : {GridTheme::Light, GridTheme::Dark}) {
            Design design = w_->design();
            design.grid.theme = theme;
            design.column("notes")->entry.kind = EntryKind::Lines;
            QVERIFY(w_->open(design));
            w_->choose(0, "work");
            w_->key(Qt::Key_F2);
            const QColor paper = grid().look().paper;
            QVERIFY(contrast(w_->entry()->palette().color(QPalette::Text), paper) >= 4.5);
            const QPalette entry = w_->entry()->palette();
            QVERIFY(contrast(entry.color(QPalette::HighlightedText), entry.color(QPalette::Highlight)) >= 4.5);
            QTest::keyClick(w_->entry(), Qt::Key_Escape);
            w_->choose(0, "notes");
            w_->key(Qt::Key_F2);
            QVERIFY(contrast(lines()->palette().color(QPalette::Text), paper) >= 4.5);
            QTest::keyClick(lines(), Qt::Key_Escape);
            w_->choose(0, "hours");
            w_->key(Qt::Key_F2);
            w_->enter("many");
            QVERIFY(!grid().message().isEmpty());
            const auto* strip = grid().viewport()->findChild<QWidget*>(QStringLiteral("messageStrip"));
            QVERIFY(strip);
            QVERIFY(contrast(strip->findChild<QLabel*>()->palette().color(QPalette::WindowText),
                             grid().look().buoyPale) >= 4.5);
            QTest::keyClick(w_->entry(), Qt::Key_Escape);
        }
    }

    // ---- Look-ups

    void whatIsNotFoundBecomesARecord() {
        w_->outside(
            "CREATE TABLE kinds (id INTEGER PRIMARY KEY, name TEXT NOT NULL CHECK (length(name) > 2));"
            "INSERT INTO kinds VALUES (1, 'repair'), (2, 'refit');"
            "ALTER TABLE jobs ADD COLUMN kind INTEGER REFERENCES kinds(id)");
        EntryDesign adding;
        adding.adds = true;
        QVERIFY(open("kind", adding));
        w_->choose(0, "kind");
        w_->key(Qt::Key_F2);
        QTest::keyClicks(w_->entry(), "survey");
        const auto list = [&]() -> QStringList {
            QStringList all;
            for (auto* completer : grid().viewport()->findChildren<QCompleter*>())
                for (int i = 0; i < completer->model()->rowCount(); ++i)
                    all << completer->model()->index(i, 0).data().toString();
            return all;
        };
        QTRY_COMPARE(list(), QStringList{"New in kinds: survey"});
        auto* completer = grid().viewport()->findChild<QCompleter*>();
        QTest::keyClick(completer->popup(), Qt::Key_Down);
        QTest::keyClick(completer->popup(), Qt::Key_Return);
        QTRY_COMPARE(w_->stored("SELECT name FROM kinds JOIN jobs ON kind = id WHERE number = 1"), QString("survey"));
        QTRY_COMPARE(w_->text(0, "kind"), QString("survey"));
        // One that is there is not offered again; one that the database refuses is said.
        w_->choose(1, "kind");
        w_->key(Qt::Key_F2);
        QTest::keyClicks(w_->entry(), "refit");
        QTRY_COMPARE(list(), QStringList{"refit"});
        QTest::keyClick(w_->entry(), Qt::Key_A, Qt::ControlModifier);
        QTest::keyClicks(w_->entry(), "x");
        QTRY_COMPARE(list(), QStringList{"New in kinds: x"});
        completer = grid().viewport()->findChild<QCompleter*>();
        QTest::keyClick(completer->popup(), Qt::Key_Down);
        QTest::keyClick(completer->popup(), Qt::Key_Return);
        QTRY_VERIFY(!grid().message().isEmpty());
        QCOMPARE(w_->stored("SELECT count(*) FROM kinds"), QString("3"));
        QVERIFY(w_->entry());
    }

    void lookUpsAddNothingUnlessTheyMay() {
        QVERIFY(open("vessel", {}));
        w_->choose(0, "vessel");
        w_->key(Qt::Key_F2);
        QTest::keyClicks(w_->entry(), "Nobody's");
        QTest::qWait(100);
        for (auto* completer : grid().viewport()->findChildren<QCompleter*>())
            QCOMPARE(completer->model()->rowCount(), 0);
    }

    // ---- The rest

    void aYesOrNoHasThreeStatesWhereItMayBeEmpty() {
        QVERIFY(open("warm", {}));
        w_->choose(0, "warm");  // the click turns it over
        const auto state = [&] { return w_->stored("SELECT coalesce(warm, 'none') FROM jobs WHERE number = 1"); };
        QTRY_COMPARE(state(), QString("1"));
        for (const char* next : {"0", "none", "1"}) {
            w_->key(Qt::Key_Space);
            QTRY_COMPARE(state(), QString(next));
        }
        w_->choose(0, "paid");  // it may not be empty
        const auto paid = [&] { return w_->stored("SELECT paid FROM jobs WHERE number = 1"); };
        QTRY_COMPARE(paid(), QString("0"));
        for (const char* next : {"1", "0", "1"}) {
            w_->key(Qt::Key_Space);
            QTRY_COMPARE(paid(), QString(next));
        }
    }

    void aListOfNumbersIsTyped() {
        QVERIFY(open("week", {}));
        w_->choose(0, "week");
        w_->edit("4, 7.5,,12");
        QTRY_COMPARE(w_->stored("SELECT week FROM jobs WHERE number = 1"), QString("[4, 7.5, null, 12]"));
        w_->choose(0, "week");
        w_->key(Qt::Key_F2);
        w_->enter("4; 7");
        QVERIFY(w_->entry());
        QVERIFY2(grid().message().contains("list of numbers"), qPrintable(grid().message()));
        QTest::keyClick(w_->entry(), Qt::Key_Escape);
    }

    void aMomentHasACalendarAndKeepsItsTime() {
        QVERIFY(open("at", {}));
        w_->choose(0, "at");
        w_->key(Qt::Key_F2);
        QTest::keyClick(w_->entry(), Qt::Key_Down, Qt::AltModifier);
        QWidget* month = QApplication::activePopupWidget();
        QVERIFY(month);
        QTest::keyClick(month, Qt::Key_Right);
        QTest::keyClick(month, Qt::Key_Return);
        QTest::keyClick(w_->entry(), Qt::Key_Return);
        QTRY_COMPARE(w_->stored("SELECT at FROM jobs WHERE number = 1"), QString("2026-03-05 10:30:00"));
    }

    void aSpanOfTimeIsTypedWithUnitsAndStepped() {
        w_->outside("UPDATE jobs SET hours = 2 WHERE number = 1");
        FormatSpec spans;
        spans.style = FormatStyle::Duration;
        spans.unit = DurationUnit::Hours;
        spans.pattern = "h:mm";
        QVERIFY(open("hours", {}, spans));
        const auto now = [&] { return w_->stored("SELECT hours FROM jobs WHERE number = 1"); };
        w_->choose(0, "hours");
        w_->edit("90 min");
        QTRY_COMPARE(now(), QString("1.5"));
        w_->choose(0, "hours");
        w_->edit("2h15");
        QTRY_COMPARE(now(), QString("2.25"));
        w_->choose(0, "hours");
        w_->key(Qt::Key_F2);
        QCOMPARE(w_->entry()->text(), QString("2:15"));
        QTest::keyClick(w_->entry(), Qt::Key_Up, Qt::ControlModifier);
        QCOMPARE(w_->entry()->text(), QString("2:30"));
        for (int i = 0; i < 12; ++i) QTest::keyClick(w_->entry(), Qt::Key_Down, Qt::ControlModifier);
        QCOMPARE(w_->entry()->text(), QString::fromUtf8("\u22120:30"));
        w_->entry()->clear();
        QCOMPARE(w_->entry()->placeholderText(), QString("1:30, or 90 min"));
        QTest::keyClick(w_->entry(), Qt::Key_Up, Qt::ControlModifier);
        QCOMPARE(w_->entry()->text(), QString("0:15"));
        w_->enter("5m 30s");  // no decimal of an hour that is shown as such
        QVERIFY(w_->entry());
        QVERIFY2(grid().message().contains("5m 30s"), qPrintable(grid().message()));
        w_->enter("0:20");
        QTRY_COMPARE(w_->text(0, "hours"), QString("0:20"));
    }

  private:
    Grid& grid() { return w_->grid(); }
    bool open(const char* field, const EntryDesign& entry, const FormatSpec& format = {}) {
        const auto source = openSource(path());
        Design design = designFor(*(*source)->schema({"jobs", "", {}}), {"sqlite", path(), "jobs", ""});
        for (ColumnDesign& column : design.columns) column.width = {WidthMode::Fixed, 90, 1, 32, 0};
        design.column(field)->entry = entry;
        if (!format.pattern.empty()) design.column(field)->format = format;
        return w_->open(design);
    }
    std::string path() { return w_->design().source.path; }
    std::optional<int> columnOf(const char* field) {
        const auto& columns = grid().session().plan().columns;
        for (std::size_t i = 0; i < columns.size(); ++i)
            if (columns[i].design.field == field) return static_cast<int>(i);
        return std::nullopt;
    }
    template <class Kind>
    Kind* visible() {
        for (Kind* one : grid().viewport()->findChildren<Kind*>())
            if (one->isVisibleTo(&grid())) return one;
        return nullptr;
    }
    QPlainTextEdit* lines() { return visible<QPlainTextEdit>(); }
    QString storedText() { return w_->stored("SELECT notes FROM jobs WHERE number = 1"); }
    std::unique_ptr<WindowHelpers> w_;
};

QTEST_MAIN(EditorsTest)
#include "tst_editors.moc"
