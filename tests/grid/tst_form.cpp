// SPDX-License-Identifier: MIT
// The ready form and its parts in a real window: entries of parameters by type and like a column, the words of filters,
// finding, the progress of reading, what is said when it was stopped.
#include <QtTest>
#include <QtWidgets>

#include <atomic>
#include <thread>

#include "grid/api/filter_words.h"
#include "grid/api/form.h"
#include "grid/api/load_line.h"
#include "grid/api/parameter_bar.h"
#include "grid/editors/date_editor.h"
#include "grid/editors/look_up_editor.h"
#include "grid/editors/month_popup.h"
#include "tests/grid/grid_fixture.h"

using namespace jollyrow;

namespace {

/// Shows the first records of another source and reads on only when it may.
class HeldSource final : public Source {
  public:
    HeldSource(std::shared_ptr<const Source> source, std::optional<std::int64_t> about)
        : source_(std::move(source)), about_(about) {}
    Result<std::vector<TableSummary>> tables(const Cancel& cancel) const override { return source_->tables(cancel); }
    Result<TableSchema> schema(const Binding& binding, const Cancel& cancel) const override {
        return source_->schema(binding, cancel);
    }
    Result<std::shared_ptr<const Table>> load(const LoadRequest& request, const Cancel& cancel) const override {
        if (!mayEnd && request.onPart) {
            LoadRequest few = request;
            few.onPart = {};
            few.most = 60;
            const auto first = source_->load(few, cancel);
            if (!first) return first.error();
            auto part = std::make_shared<Table>(**first);
            part->complete = false;
            request.onPart(part, {60, std::nullopt, 20, about_});
        }
        while (!mayEnd && !cancel.requested()) std::this_thread::sleep_for(std::chrono::milliseconds(1));
        if (cancel.requested()) return Error{ErrorCode::Cancelled, "Loading was cancelled."};
        LoadRequest all = request;
        all.onPart = {};
        return source_->load(all, cancel);
    }
    Result<std::vector<LookUpEntry>> lookUp(const LookUpRequest& request, const Cancel& cancel) const override {
        return source_->lookUp(request, cancel);
    }
    Result<std::vector<Value>> valuesOf(const RecordRequest& request) const override {
        return source_->valuesOf(request);
    }
    std::atomic<bool> mayEnd = false;

  private:
    std::shared_ptr<const Source> source_;
    std::optional<std::int64_t> about_;
};

ParameterDesign parameter(const char* name, Type type, const char* like = "", const char* hint = "") {
    ParameterDesign made;
    made.name = name;
    made.heading = name;
    made.type = type;
    made.like = like;
    made.hint = hint;
    return made;
}

}  // namespace

class FormTest : public QObject {
    Q_OBJECT
    std::unique_ptr<GridFixture> f_;
    std::unique_ptr<Form> form_;

    Grid& grid() { return form_->grid(); }
    bool show() {
        form_->resize(1000, 600);
        form_->show();
        form_->activateWindow();
        return QTest::qWaitForWindowExposed(form_.get());
    }
    bool open() {
        return form_->open(f_->design, f_->path).ok() && show() &&
               QTest::qWaitFor([this] { return !grid().isLoading() && grid().lineCount() == 200; });
    }
    ParameterBar& bar() { return *form_->findChild<ParameterBar*>(); }
    bool shows(std::int64_t lines) {
        return QTest::qWaitFor([&] { return grid().lineCount() == lines; });
    }
    QString said() { return form_->findChild<LoadLine*>()->words(); }
    bool hasLabel(const QString& words) {
        for (const QLabel* label : form_->findChildren<QLabel*>())
            if (label->isVisibleTo(form_.get()) && label->text() == words) return true;
        return false;
    }

  private Q_SLOTS:
    void init() {
        f_ = std::make_unique<GridFixture>();
        f_->grid.hide();
        form_ = std::make_unique<Form>();
    }
    void cleanup() {
        form_.reset();
        f_.reset();
    }

    /// Three lines of an application's, and all that its design has is there.
    void allThatTheDesignHas() {
        f_->design.title = "Yard jobs";
        f_->design.parameters = {parameter("least", Type::Decimal)};
        f_->design.filter = {{"hours >= :least", "", "", true, {}}};
        QVERIFY(open());
        QVERIFY(hasLabel("Yard jobs"));
        QVERIFY(bar().isVisible() && form_->findChild<FilterWords*>()->isVisible());
        QVERIFY(said().isEmpty());
        QTest::keyClicks(bar().entry("least"), "30");
        QVERIFY(shows(50));
        QTest::mouseClick(form_->findChild<QPushButton*>(), Qt::LeftButton);
        for (QPushButton* button : form_->findChildren<QPushButton*>())
            if (button->text() == "Find") QTest::mouseClick(button, Qt::LeftButton);
        QTRY_VERIFY(qobject_cast<QLineEdit*>(QApplication::focusWidget()));
        QTest::keyClicks(QApplication::focusWidget(), "work 33");
        QTest::keyClick(QApplication::focusWidget(), Qt::Key_Return);
        QTRY_COMPARE(grid().selection().current().plain("number"), QString("33"));
        form_->setHeadShown(false);
        QVERIFY(!hasLabel("Yard jobs"));
    }

    void nothingThatIsNotAskedFor() {
        QVERIFY(open());
        QVERIFY(!bar().isVisible());
        QVERIFY(!form_->findChild<FilterWords*>()->isVisible());
        QVERIFY(hasLabel("200 records"));
        QVERIFY(!Form().open("/nowhere/at/all.jrow").ok());
    }

    void aDayHasACalendar() {
        f_->design.parameters = {parameter("from", Type::Date, "", "first day")};
        f_->design.filter = {{"due >= :from", "", "", true, {}}};
        QVERIFY(open());
        QLineEdit* entry = bar().entry("from");
        QVERIFY(entry && entry->placeholderText() == "first day");
        auto* editor = form_->findChild<DateEditor*>();
        QVERIFY(editor);
        entry->setFocus();
        QTest::keyClicks(entry, "2026-07-01");
        QVERIFY(shows(20));
        QTest::keyClick(entry, Qt::Key_Down, Qt::AltModifier);
        auto* month = editor->findChild<MonthPopup*>();
        QVERIFY(month);
        QTest::keyClick(month, Qt::Key_Right);
        QTest::keyClick(month, Qt::Key_Return);
        QVERIFY(shows(19));
        entry->selectAll();
        QTest::keyClicks(entry, "31 Feb");
        QVERIFY(!bar().message().isEmpty());
        QCOMPARE(grid().lineCount(), std::int64_t{19});  // the last good one stays
        QTest::mouseClick(bar().findChild<QPushButton*>(), Qt::LeftButton);
        QVERIFY(shows(200));
        QVERIFY(bar().message().isEmpty() && entry->text().isEmpty());
    }

    void anEntryLikeALookUpSearches() {
        f_->design.column("vessel")->label = "name";
        f_->design.parameters = {parameter("boat", Type::Integer, "vessel")};
        f_->design.filter = {{"vessel = :boat", "", "", true, {}}};
        QVERIFY(open());
        QTRY_VERIFY(form_->findChild<LookUpEditor*>());
        QLineEdit* entry = bar().entry("boat");
        entry->setFocus();
        QTest::keyClicks(entry, "Brisk");
        QCOMPARE(grid().lineCount(), std::int64_t{200});  // half a name is no mistake, and no filter
        QVERIFY(bar().message().isEmpty());
        QTest::keyClicks(entry, " Molly");
        QTest::qWait(200);
        QTest::keyClick(entry, Qt::Key_Return);
        QTRY_VERIFY(grid().lineCount() < 60 && grid().lineCount() > 20);
        for (std::int64_t line = 0; line < grid().lineCount(); ++line)
            QCOMPARE(grid().recordAt(line).value("vessel"), Value(std::int64_t{12}));
        // Left with half a name, it says that the last one still holds.
        entry->setFocus();
        QTest::keyClick(entry, Qt::Key_Backspace);
        QTest::qWait(100);
        const std::int64_t before = grid().lineCount();
        QTest::keyClick(QApplication::activePopupWidget(), Qt::Key_Tab);  // the list has the keys
        QVERIFY(!entry->hasFocus());
        QTRY_VERIFY(!bar().message().isEmpty());
        QCOMPARE(grid().lineCount(), before);
        entry->setFocus();
        entry->selectAll();
        QTest::keyClicks(entry, "Nobody's");
        QTest::qWait(200);
        QTest::keyClick(entry, Qt::Key_Return);
        QTRY_VERIFY(!bar().message().isEmpty());
        QTest::keyClick(entry, Qt::Key_A, Qt::ControlModifier);
        QTest::keyClick(entry, Qt::Key_Delete);
        QVERIFY(shows(200));
    }

    /// A design whose parameter is like what is not there, or of another type, has a finding and a plain entry.
    void whatItCannotBeLike_data() {
        QTest::addColumn<QString>("like");
        QTest::newRow("no column") << "gone";
        QTest::newRow("another type") << "status";
    }
    void whatItCannotBeLike() {
        QFETCH(QString, like);
        f_->design.parameters = {parameter("least", Type::Decimal, like.toUtf8().constData())};
        f_->design.filter = {{"hours >= :least", "", "", true, {}}};
        QVERIFY(open());
        const std::vector<Finding> findings = grid().findings();
        QVERIFY(std::any_of(findings.begin(), findings.end(),
                            [](const Finding& finding) { return finding.where == "parameters/least/like"; }));
        QTest::keyClicks(bar().entry("least"), "30");
        QVERIFY(shows(50));
    }

    void yesOrNo() {
        f_->design.parameters = {parameter("paid_ones", Type::Boolean, "", "paid or not")};
        f_->design.filter = {{"paid = :paid_ones", "", "", true, {}}};
        QVERIFY(open());
        auto* box = bar().findChild<QComboBox*>();
        QVERIFY(box && box->itemText(0) == "paid or not");
        QTest::keyClick(box, Qt::Key_Down);
        QVERIFY(shows(100));
        QTest::keyClick(box, Qt::Key_Up);
        QVERIFY(shows(200));
    }

    /// How far reading has come is said of what is known of the whole; a part is never told as if it were all.
    void readingAndStopped_data() {
        QTest::addColumn<qint64>("about");
        QTest::addColumn<QString>("words");
        QTest::newRow("about so many") << qint64{240} << "60 of about 240";
        QTest::newRow("too small a guess") << qint64{10} << "60";
        QTest::newRow("unknown") << qint64{-1} << "60";
    }
    void readingAndStopped() {
        QFETCH(qint64, about);
        QFETCH(QString, words);
        const auto source = std::make_shared<HeldSource>(*openSource(f_->path.toStdString()),
                                                         about < 0 ? std::nullopt : std::optional<std::int64_t>(about));
        f_->design.filter = {{"hours >= 0", "", "", true, {}}};
        QVERIFY(grid().open(f_->design, source, {}).ok());
        QVERIFY(show());
        QTRY_VERIFY(said().contains(words));
        QVERIFY(said().contains("25 %") == (about == 240));
        QVERIFY(said().contains("3\u2009000 a second"));
        QTRY_COMPARE(grid().lineCount(), std::int64_t{60});
        QVERIFY(form_->findChild<FilterWords*>()->sentence().contains("60 of 60 so far"));
        QVERIFY(!grid().isPartial());
        auto* button = form_->findChild<QPushButton*>("loadButton");
        QCOMPARE(button->text(), QString("Stop"));
        QTest::mouseClick(button, Qt::LeftButton);
        QTRY_VERIFY(said().contains("stopped at " + words));
        QVERIFY(grid().isPartial() && grid().lineCount() == 60);
        QVERIFY(form_->findChild<FilterWords*>()->sentence().contains("so far"));
        QTest::qWait(400);  // it stays in sight
        QVERIFY(said().contains("stopped at"));
        source->mayEnd = true;
        QTest::mouseClick(button, Qt::LeftButton);
        QVERIFY(shows(200));
        QTRY_VERIFY(said().isEmpty());
        QVERIFY(!grid().isPartial());
        QTRY_VERIFY(!form_->findChild<FilterWords*>()->sentence().contains("so far"));
    }

    /// What is read in no time flashes no line.
    void aQuickReadingIsNotShown() {
        int shown = 0;
        QVERIFY(open());
        auto* line = form_->findChild<LoadLine*>();
        for (int i = 0; i < 5; ++i) {
            QElapsedTimer timer;
            timer.start();
            grid().reload();
            // What takes longer, on a machine that does other things, may be shown.
            QVERIFY(QTest::qWaitFor([&] {
                shown += line->isVisible() && timer.elapsed() < 200 ? 1 : 0;
                return !grid().isLoading();
            }));
            QTRY_VERIFY(!line->isVisible());
        }
        QCOMPARE(shown, 0);
    }
};

QTEST_MAIN(FormTest)
#include "tst_form.moc"
