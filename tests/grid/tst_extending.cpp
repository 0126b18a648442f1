// SPDX-License-Identifier: MIT
// What an application adds to a grid by functions: editors, checks that answer at once and later, savers.
#include <QtWidgets>

#include <stdexcept>

#include "grid/editors/line_editor.h"
#include "tests/grid/window_helpers.h"

using namespace jollyrow;

namespace {

/// As an application would write one: three words to choose from by a click.
class WordEditor final : public Editor {
  public:
    WordEditor(const EditorTask& task, QWidget* parent) : Editor(task, parent) {
        setObjectName("wordEditor");
        auto* row = new QHBoxLayout(this);
        row->setContentsMargins(2, 0, 2, 0);
        for (const char* word : {"Booked", "Done"}) {
            auto* button = new QToolButton(this);
            button->setText(word);
            QObject::connect(button, &QToolButton::clicked, this, [this, word] {
                chosen_ = word;
                Q_EMIT committed(1, 0);
            });
            row->addWidget(button);
        }
    }
    void begin(const EditedCell& cell) override { before_ = chosen_ = cell.shown; }
    void beginWith(const QString& typed) override { chosen_ = typed; }
    void clear() override { chosen_.clear(); }
    QString typed() const override { return chosen_; }
    bool isUnchanged() const override { return chosen_ == before_; }
    Result<Entered> entered() const override { return Entered{Value(chosen_.toStdString())}; }

  private:
    QString chosen_, before_;
};

}  // namespace

class ExtendingTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void init() { w_ = std::make_unique<WindowHelpers>(); }
    void cleanup() { w_.reset(); }

    void anEditorOfItsOwn() {
        QVERIFY(w_->open());
        grid().extensions().setEditor(
            "status", [](const EditorTask& task, QWidget* parent) { return new WordEditor(task, parent); });
        w_->choose(0, "status");
        w_->key(Qt::Key_F2);
        auto* editor = grid().viewport()->findChild<QFrame*>("wordEditor");
        QVERIFY(editor);
        QTest::mouseClick(editor->findChildren<QToolButton*>().at(1), Qt::LeftButton);
        QTRY_COMPARE(w_->stored("SELECT status FROM jobs WHERE number = 1"), QString("Done"));
        w_->choose(0, "work");
        w_->key(Qt::Key_F2);
        QVERIFY(w_->entry());  // others have the ready ones
        QTest::keyClick(w_->entry(), Qt::Key_Escape);
        grid().extensions().setEditor("status", [](const EditorTask&, QWidget*) -> Editor* { return nullptr; });
        w_->choose(0, "status");
        w_->key(Qt::Key_F2);
        QVERIFY(w_->entry());
    }

    void aCheckIsToldAtTheCell() {
        QVERIFY(w_->open());
        grid().extensions().setCheck("no tar", "work", [](const EditedRecord& record) {
            const Value work = record("work");
            const auto* text = std::get_if<std::string>(&work);
            return text && *text == "tar" ? QString("Nobody tars here.") : QString();
        });
        w_->choose(0, "work");
        w_->key(Qt::Key_F2);
        w_->enter("tar");
        QVERIFY(w_->entry());  // the cell is not left
        QCOMPARE(grid().message(), QString("Nobody tars here."));
        w_->enter("varnish");
        QTRY_COMPARE(w_->stored("SELECT work FROM jobs WHERE number = 1"), QString("varnish"));
        grid().extensions().setCheck("no tar", "work", {});
        w_->choose(0, "work");
        w_->edit("tar");
        QTRY_COMPARE(w_->stored("SELECT work FROM jobs WHERE number = 1"), QString("tar"));
    }

    void aWarningIsPassedOver() {
        QVERIFY(w_->open());
        grid().extensions().setCheck(
            "short", "work", [](const EditedRecord&) { return QString("That is short."); },
            GridExtensions::CheckStrength::Warning);
        w_->choose(0, "work");
        w_->key(Qt::Key_F2);
        w_->enter("x");
        QVERIFY(w_->entry());
        QTest::keyClick(w_->entry(), Qt::Key_Return);
        QTRY_COMPARE(w_->stored("SELECT work FROM jobs WHERE number = 1"), QString("x"));
    }

    void aCheckThatAnswersLater() {
        QVERIFY(w_->open());
        QList<CheckAnswer> asked;
        grid().extensions().setCheckLater("office", "work",
                                          [&](const EditedRecord&, const CheckAnswer& answer) { asked << answer; });
        w_->choose(0, "work");
        w_->edit("x");
        QCOMPARE(asked.size(), 1);
        QTest::qWait(40);
        QCOMPARE(w_->stored("SELECT work FROM jobs WHERE number = 1"), QString("work 1"));
        QCOMPARE(grid().records().changes().size(), std::size_t{1});
        QVERIFY(!grid().records().changes()[0].isBlocked);  // it waits; nothing is wrong
        asked[0]("The office says no.");
        QTRY_VERIFY(!grid().records().changes().empty() && grid().records().changes()[0].isBlocked);
        QCOMPARE(grid().records().changes()[0].message, QString("The office says no."));
        w_->choose(0, "work");
        w_->edit("y");
        QCOMPARE(asked.size(), 2);
        asked[1]({});
        QTRY_COMPARE(w_->stored("SELECT work FROM jobs WHERE number = 1"), QString("y"));
    }

    void silenceEndsAtItsLimit() {
        QVERIFY(w_->open());
        int asked = 0;
        grid().extensions().setCheckLater(
            "silent", "work", [&](const EditedRecord&, const CheckAnswer&) { ++asked; }, std::chrono::milliseconds(80));
        w_->choose(0, "work");
        w_->edit("x");
        QTRY_VERIFY(!grid().records().changes().empty() && grid().records().changes()[0].isBlocked);
        QVERIFY2(grid().records().changes()[0].message.contains("in time"),
                 qPrintable(grid().records().changes()[0].message));
        w_->choose(0, "work");
        w_->edit("xx");
        QCOMPARE(asked, 2);  // asked again
    }

    void aRecordMayBeLeftWhileItWaits() {
        QVERIFY(w_->open());
        CheckAnswer last;
        grid().extensions().setCheckLater("office", "work",
                                          [&](const EditedRecord&, const CheckAnswer& answer) { last = answer; });
        w_->choose(0, "work");
        w_->edit("x");
        w_->choose(5, "work");
        QCOMPARE(grid().selection().currentCell()->line, std::int64_t{5});
        last({});
        QTRY_COMPARE(w_->stored("SELECT work FROM jobs WHERE number = 1"), QString("x"));
    }

    void theApplicationSaves() {
        QVERIFY(w_->open());
        std::vector<SaveRequest> seen;
        std::unique_ptr<SaveReply> reply;
        grid().extensions().setSaver([&](const std::vector<SaveRequest>& records, const SaveReply& answer) {
            seen = records;
            reply = std::make_unique<SaveReply>(answer);
        });
        w_->choose(0, "work");
        w_->edit("mine");
        QTRY_VERIFY(reply);
        QCOMPARE(seen.size(), std::size_t{1});
        QCOMPARE(seen[0].change, RecordChange::Update);
        QCOMPARE(seen[0].key, RecordKey{Value(std::int64_t{1})});
        QCOMPARE(seen[0].values.at("work"), Value(std::string("mine")));
        QCOMPARE(seen[0].before.at("work"), Value(std::string("work 1")));
        reply->refuse("Not on a Sunday.", "work");
        reply.reset();
        QTRY_COMPARE(grid().records().changes().size(), std::size_t{1});
        QTRY_COMPARE(grid().records().changes()[0].message, QString("Not on a Sunday."));
        w_->choose(1, "work");
        w_->choose(0, "work");
        QTRY_COMPARE(grid().message(), QString("Not on a Sunday."));
        grid().records().save(grid().recordAt(0));
        QTRY_VERIFY(reply);
        reply->store();
        QTRY_COMPARE(w_->stored("SELECT work FROM jobs WHERE number = 1"), QString("mine"));
        // One that the application makes itself, key and all.
        const auto made =
            grid().records().insert({{"work", std::string("new")}, {"status", std::string("Done")}, {"paid", false}});
        QVERIFY(made.ok());
        reply.reset();
        QCOMPARE(grid().records().save(*made), 1);
        QTRY_VERIFY(reply);
        QCOMPARE(seen[0].change, RecordChange::Insert);
        reply->stored({{0, {Value(std::int64_t{7000})}}});
        QTRY_COMPARE(grid().records().unsaved(), std::size_t{0});
        QCOMPARE(w_->stored("SELECT count(*) FROM jobs WHERE work = 'new'"), QString("0"));
        QTRY_VERIFY(w_->lineWhere("number", "7000") >= 0 || w_->lineWhere("work", "new") >= 0);
    }

    /// In a filter, a computed column, a figure and an order; what the records are is the test's own loop over them.
    void functionsOrdersAndAggregates() {
        registerAll();
        const Design design = naming("twice", "digits(work) * 2");
        QVERIFY(w_->open(design));
        QVERIFY(grid().filters().set("long", "digits(work) > 1").ok());
        QVERIFY2(grid().findings().empty(), grid().findings().empty() ? "" : grid().findings()[0].message.c_str());
        const std::int64_t all = w_->stored("SELECT count(*) FROM jobs WHERE number >= 10").toLongLong();
        QVERIFY(all > 50);
        QTRY_COMPARE(grid().lineCount(), all);
        QTRY_COMPARE(w_->text(0, "twice").toInt(), 2 * static_cast<int>(w_->text(0, "number").size()));
        qsizetype last = 0;
        for (std::int64_t line = 0; line < grid().lineCount(); line += 7) {
            QVERIFY(w_->text(line, "status").size() >= last);
            last = w_->text(line, "status").size();
        }
        QTRY_COMPARE(std::get<double>(grid().groups().figure("widest")),
                     w_->stored("SELECT max(hours) - min(hours) FROM jobs WHERE number >= 10").toDouble());
    }

    void whatIsNotRegisteredIsAFinding() {
        Design design = naming("twice", "digits(work) * 2");
        design.filter = {{"digits(work) > 1", {}, {}, true}};
        QVERIFY(grid().open(design, QString::fromStdString(w_->databasePath())).ok());
        QString said;
        for (const Finding& finding : grid().findings()) said += QString::fromStdString(finding.message) + u' ';
        QVERIFY2(said.contains("digits", Qt::CaseInsensitive) && said.contains("by_length"), qPrintable(said));
    }

    /// What an application throws, on a worker, is a cell that says so; all else goes on.
    void whatThrowsIsSaid() {
        registerAll();
        ExternalFunction odd;
        odd.name = "digits";  // in the place of the other
        odd.arguments = {RuleKind::Text};
        odd.result = RuleKind::Integer;
        odd.call = [](std::span<const RuleValue> in) -> Result<RuleValue> {
            if (std::get<std::string>(in[0]) == "work 3") throw std::runtime_error("three");
            if (std::get<std::string>(in[0]) == "work 4") throw 4;
            return RuleValue(std::int64_t{7});
        };
        grid().extensions().registerFunction(odd);
        ExternalAggregate bad;
        bad.name = "span_of";
        bad.begin = []() -> std::unique_ptr<AggregateState> {
            struct Thrower final : AggregateState {
                void add(const RuleValue&) override { throw std::runtime_error("no"); }
                void merge(const AggregateState&) override {}
                Result<RuleValue> finish() const override { return RuleValue(1.0); }
            };
            return std::make_unique<Thrower>();
        };
        grid().extensions().registerAggregate(bad);
        grid().extensions().registerComparator(
            {"by_length", [](const Value&, const Value&) -> int { throw std::runtime_error("no"); }});
        ExternalAggregate none;
        none.name = "never";
        none.begin = []() -> std::unique_ptr<AggregateState> { throw 5; };
        grid().extensions().registerAggregate(none);
        Design design = naming("seven", "digits(work)");
        design.summaries.push_back(design.summaries[0]);
        design.summaries[1].name = "never";
        design.summaries[1].rule = "never(hours)";
        QVERIFY(w_->open(design));
        QTRY_VERIFY(!grid().isLoading() && w_->lineWhere("work", "work 5") >= 0);
        QTRY_COMPARE(w_->text(w_->lineWhere("work", "work 5"), "seven"), QString("7"));
        for (const char* failed : {"work 3", "work 4"})
            QVERIFY(w_->text(w_->lineWhere("work", failed), "seven") != QString("7"));
        for (const char* failed : {"widest", "never"}) QCOMPARE(grid().groups().figure(failed), Value());
        QCOMPARE(grid().lineCount(), w_->stored("SELECT count(*) FROM jobs").toLongLong());
    }

  private:
    /// A design whose computed column, figure and order are the application's.
    Design naming(const char* field, const char* rule) {
        Design design = w_->design();
        ColumnDesign column;
        column.field = column.heading = field;
        column.rule = rule;
        design.columns.push_back(column);
        SummaryDesign widest;
        widest.name = "widest";
        widest.column = "hours";
        widest.show = SummaryShow::Rule;
        widest.rule = "span_of(hours)";
        design.summaries = {widest};
        SortDesign byLength;
        byLength.field = "status";
        byLength.comparator = "by_length";
        design.sort = {byLength};
        return design;
    }
    void registerAll() {
        ExternalFunction digits;
        digits.name = "digits";
        digits.arguments = {RuleKind::Text};
        digits.result = RuleKind::Integer;
        digits.isPure = true;
        digits.call = [](std::span<const RuleValue> in) -> Result<RuleValue> {
            const auto& text = std::get<std::string>(in[0]);
            return RuleValue(static_cast<std::int64_t>(std::count_if(text.begin(), text.end(), ::isdigit)));
        };
        grid().extensions().registerFunction(digits);
        struct Span final : AggregateState {
            void add(const RuleValue& value) override { take(std::get<double>(value)); }
            void merge(const AggregateState& other) override {
                const auto& from = static_cast<const Span&>(other);
                if (from.least <= from.most) take(from.least), take(from.most);
            }
            Result<RuleValue> finish() const override { return RuleValue(most - least); }
            void take(double number) {
                least = std::min(least, number);
                most = std::max(most, number);
            }
            double least = 1e9, most = -1e9;
        };
        grid().extensions().registerAggregate(
            {"span_of", RuleKind::Real, RuleKind::Real, [] { return std::make_unique<Span>(); }});
        grid().extensions().registerComparator({"by_length", [](const Value& a, const Value& b) {
                                                    const auto length = [](const Value& v) {
                                                        const auto* text = std::get_if<std::string>(&v);
                                                        return text ? static_cast<int>(text->size()) : 0;
                                                    };
                                                    return length(a) - length(b);
                                                }});
    }
    Grid& grid() { return w_->grid(); }
    std::unique_ptr<WindowHelpers> w_;
};

QTEST_MAIN(ExtendingTest)
#include "tst_extending.moc"
