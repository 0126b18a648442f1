// SPDX-License-Identifier: MIT
// An application's own objects as records: read as any source, edited, checked, changed by the application while they
// are shown. Sessions without a window; also under the thread sanitizer.
#include <QtTest>

#include <random>

#include "core/columns/civil.h"
#include "core/session/objects_link.h"
#include "core/sources/objects/object_source.h"
#include "tests/session/inbox.h"
#include "tests/sources/conformance.h"
#include "tests/turns.h"

using namespace jollyrow;

namespace {

struct Job {
    std::int64_t number = 0;
    std::optional<int> vessel;
    std::string work;
    Decimal hours{0, 2};
    Date due{20'000};
    bool isPaid = false;
    bool operator==(const Job&) const = default;
};

void declare(ObjectSource<Job>& jobs) {
    jobs.field("number", &Job::number);
    jobs.field("vessel", &Job::vessel);
    jobs.field("work", &Job::work).required().atMost(20);
    jobs.field("hours", &Job::hours).scale(2);
    jobs.field("due", &Job::due);
    jobs.field("paid", &Job::isPaid);
    jobs.computed("late", [](const Job& job) { return !job.isPaid && job.due.days < 20'000; });
    jobs.unbound<bool>("picked");
    jobs.unbound<std::optional<std::string>>("remark", "none yet");
    jobs.check([](const Job& job) { return job.hours.mantissa < 0 ? std::string("Hours are not negative.") : ""; },
               {"hours"});
}

std::vector<Job> someJobs(int count) {
    std::vector<Job> all;
    for (int i = 1; i <= count; ++i)
        all.push_back({i,
                       i % 4 ? std::optional(i % 4) : std::nullopt,
                       "work " + std::to_string(i),
                       {i * 25, 2},
                       {19'990 + i % 20},
                       i % 2 == 0});
    return all;
}

/// A view of the objects: a session on them, with an inbox of its own.
struct View {
    explicit View(ObjectSource<Job>& jobs, Saving saving = Saving::EachCell, const std::string& sort = {}) {
        SessionListener listener;
        listener.onLoaded = [this](const Result<void>& result) {
            ++loads;
            if (!result) failures += result.error().message;
            link->loaded();
        };
        listener.onFailure = [this](const Error& error) { failures += error.message; };
        const auto post = [this](std::function<void()> call) { inbox.post(std::move(call)); };
        session = std::make_unique<Session>(post, std::move(listener));
        link = std::make_unique<ObjectsLink>(*session, jobs, post);
        Design design = designFor(jobs.schema(), {});
        design.source.table = jobs.schema().name;
        design.grid.saving = saving;
        if (!sort.empty()) design.sort = {{sort, Direction::Ascending, Empties::Last}};
        if (!link->open(design)) qFatal("the objects cannot be opened");
        if (!until([&] { return loads > 0 && !session->isLoading(); })) qFatal("the objects are not read");
    }
    ~View() { link.reset(); }
    bool until(const std::function<bool()>& reached) {
        QElapsedTimer timer;
        timer.start();
        while (timer.elapsed() < 30'000) {
            inbox.pump();
            if (reached()) return true;
            QThread::usleep(200);
        }
        return false;
    }
    FieldIndex field(const char* name) const { return *session->schema().find(name); }
    Value value(SourceRow row, const char* name) const { return session->snapshot()->value(row, field(name)); }
    SourceRow row(ObjectId id) const { return session->rowOf({Value(id)}).value_or(kNoRow); }
    /// What is shown, in its order, as an application would have it.
    std::vector<std::string> shown() const {
        std::vector<std::string> all;
        const Snapshot& now = *session->snapshot();
        for (std::int64_t i = 0; i < now.recordCount(); ++i) all.push_back(words(now.record(i)));
        return all;
    }
    /// What the records are sorted by.
    std::vector<Value> order() const {
        std::vector<Value> all;
        const Snapshot& now = *session->snapshot();
        for (std::int64_t i = 0; i < now.recordCount(); ++i) all.push_back(value(now.record(i), "work"));
        return all;
    }
    std::string words(SourceRow row) const {
        std::string text;
        for (const char* name : {"number", "vessel", "work", "hours", "due", "paid", "late", "picked", "remark"}) {
            appendPlain(text, value(row, name));
            text += '|';
        }
        return text;
    }
    const CellEdit* edit(SourceRow row, const char* name) const {
        return session->snapshot()->edits->find(row, field(name));
    }

    Inbox inbox;
    std::unique_ptr<Session> session;
    std::unique_ptr<ObjectsLink> link;
    int loads = 0;
    std::string failures;
};

std::string words(const Job& job) {
    std::string text;
    for (const Value& value : {Value(job.number), job.vessel ? Value(std::int64_t{*job.vessel}) : Value(Empty{}),
                               job.work.empty() ? Value(Empty{}) : Value(job.work), Value(job.hours), Value(job.due),
                               Value(job.isPaid), Value(!job.isPaid && job.due.days < 20'000)}) {
        appendPlain(text, value);
        text += '|';
    }
    return text;
}

/// With what is kept beside it.
std::string words(const ObjectSource<Job>& jobs, ObjectId id) {
    std::string text = words(*jobs.find(id));
    for (const char* name : {"picked", "remark"}) {
        appendPlain(text, jobs.value(id, *jobs.schema().find(name)));
        text += '|';
    }
    return text;
}

std::vector<std::string> held(const ObjectSource<Job>& jobs) {
    std::vector<std::string> all;
    jobs.forEach([&](ObjectId id, const Job&) { all.push_back(words(jobs, id)); });
    return all;
}

}  // namespace

class ObjectsTest : public QObject {
    Q_OBJECT
    std::unique_ptr<ObjectSource<Job>> jobs_;
    void fill(int count) {
        jobs_ = std::make_unique<ObjectSource<Job>>("jobs");
        declare(*jobs_);
        jobs_->set(someJobs(count));
    }

  private Q_SLOTS:
    void init() { fill(40); }

    void theyKeepToWhatSourcesKeepTo() {
        fill(2000);
        test::checkSource({jobs_->source(), {}, "jobs"});
    }

    /// Each type of C++, at its ends and empty: what a column holds is what the object has, and comes back.
    void valuesOfEachType() {
        struct Odd {
            bool yes = true;
            signed char small = -128;
            std::uint32_t wide = 4'294'967'295U;
            std::int64_t widest = std::numeric_limits<std::int64_t>::min();
            float real = 0.5F;
            double nothing = std::numeric_limits<double>::quiet_NaN();
            std::string text = "a\0b\xc3\xa9";
            std::string none;
            std::optional<std::string> emptyText = "";
            std::optional<std::string> noText;
            Decimal exact{12'345, 3};
            Date day{-1};
            Time time{86'399'999'999};
            Timestamp moment{-1};
            Instant point{0};
            std::chrono::sys_days days = std::chrono::sys_days(std::chrono::year(2026) / 2 / 28);
            std::chrono::year_month_day civil = std::chrono::year(1999) / 12 / 31;
            std::optional<double> maybe = -0.0;
            Bytes bytes{std::string("\0\xff", 2)};
        };
        ObjectSource<Odd> all("odd");
        all.field("yes", &Odd::yes);
        all.field("small", &Odd::small);
        all.field("wide", &Odd::wide);
        all.field("widest", &Odd::widest);
        all.field("real", &Odd::real);
        all.field("nothing", &Odd::nothing);
        all.field("text", &Odd::text);
        all.field("none", &Odd::none);
        all.field("emptyText", &Odd::emptyText);
        all.field("noText", &Odd::noText);
        all.field("exact", &Odd::exact).scale(3);
        all.field(
            "rounded", [](const Odd& odd) { return odd.exact; }, [](Odd& odd, Decimal to) { odd.exact = to; });
        all.field("day", &Odd::day);
        all.field("time", &Odd::time);
        all.field("moment", &Odd::moment);
        all.field("point", &Odd::point);
        all.field("days", &Odd::days);
        all.field("civil", &Odd::civil);
        all.field("maybe", &Odd::maybe);
        all.field("bytes", &Odd::bytes);
        all.set({Odd{}});
        LoadRequest request;
        request.binding.table = "odd";
        request.wanted.assign(all.schema().fields.size(), true);
        const auto table = *all.source()->load(request, Cancel());
        const auto value = [&](const char* name) {
            return table->column(*table->schema.find(name))->value(SourceRow{0});
        };
        QCOMPARE(value("yes"), Value(true));
        QCOMPARE(value("small"), Value(std::int64_t{-128}));
        QCOMPARE(value("wide"), Value(std::int64_t{4'294'967'295}));
        QCOMPARE(value("widest"), Value(std::numeric_limits<std::int64_t>::min()));
        QCOMPARE(value("real"), Value(0.5));
        QVERIFY(std::isnan(std::get<double>(value("nothing"))));
        QCOMPARE(value("text"), Value(Odd{}.text));
        QCOMPARE(value("none"), Value(Empty{}));
        QCOMPARE(value("emptyText"), Value(std::string()));
        QCOMPARE(value("noText"), Value(Empty{}));
        QCOMPARE(value("exact"), Value(Decimal{12'345, 3}));
        QCOMPARE(value("rounded"), Value(Unfit{"12.345", Stored::Text}));  // never another number
        QCOMPARE(value("day"), Value(Date{-1}));
        QCOMPARE(value("time"), Value(Time{86'399'999'999}));
        QCOMPARE(value("moment"), Value(Timestamp{-1}));
        QCOMPARE(value("point"), Value(Instant{0}));
        QCOMPARE(value("days"), Value(Date{*daysFromCivil({2026, 2, 28})}));
        QCOMPARE(value("civil"), Value(Date{*daysFromCivil({1999, 12, 31})}));
        QCOMPARE(value("bytes"), Value(Odd{}.bytes));
        for (const char* name : {"yes", "small", "real", "exact", "day", "days", "civil", "point"})
            QVERIFY2(table->schema.field(*table->schema.find(name)).required, name);
        for (const char* name : {"text", "noText", "maybe", "bytes"})
            QVERIFY2(!table->schema.field(*table->schema.find(name)).required, name);
    }

    void whatIsTypedIsWrittenIntoTheObject() {
        View view(*jobs_), other(*jobs_);
        const SourceRow row = view.row(3);
        view.session->records().edit(row, view.field("work"), Value(std::string("caulk")));
        QVERIFY(view.until([&] { return view.session->records().unsaved() == 0; }));
        QCOMPARE(jobs_->find(3)->work, std::string("caulk"));
        // What is computed from it follows in this view, too, and all of it in the other one.
        view.session->records().edit(row, view.field("due"), Value(Date{19'000}));
        QVERIFY(view.until([&] { return view.session->records().unsaved() == 0; }));
        QCOMPARE(view.value(row, "late"), Value(true));
        QVERIFY(other.until([&] { return other.shown() == held(*jobs_); }));
        QVERIFY(view.until([&] { return view.shown() == held(*jobs_); }));
        QCOMPARE(view.loads, 1);
        QCOMPARE(other.loads, 1);
    }

    void whatAnObjectDoesNotTakeIsRefused_data() {
        QTest::addColumn<QString>("field");
        QTest::addColumn<int>("kind");
        QTest::addColumn<QString>("says");
        QTest::newRow("a check of the object") << "hours" << 0 << "Hours are not negative.";
        QTest::newRow("a number too large for the member") << "vessel" << 1 << "too large";
        QTest::newRow("nothing where there must be something") << "number" << 2 << "";
    }
    void whatAnObjectDoesNotTakeIsRefused() {
        QFETCH(QString, field);
        QFETCH(int, kind);
        QFETCH(QString, says);
        View view(*jobs_);
        const SourceRow row = view.row(5);
        const auto before = held(*jobs_);
        const Value value = kind == 0   ? Value(Decimal{-1, 2})
                            : kind == 1 ? Value(std::int64_t{1} << 40)
                                        : Value(Empty{});
        const std::string name = field.toStdString();
        view.session->records().edit(row, view.field(name.c_str()), value);
        if (kind == 2) {  // a check that is there already: it is not even tried
            QVERIFY(view.session->snapshot()->edits->record(row)->problems().size() == 1);
        } else {
            QVERIFY(view.until([&] { return view.edit(row, name.c_str())->state == EditState::Refused; }));
            QVERIFY(view.edit(row, name.c_str())->message.find(says.toStdString()) != std::string::npos);
        }
        QCOMPARE(held(*jobs_), before);
    }

    void recordsAreAddedAndDeletedByAForm() {
        View view(*jobs_), other(*jobs_);
        const auto made = view.session->records().insert(
            {{view.field("number"), Value(std::int64_t{99})}, {view.field("work"), Value(std::string("step mast"))}});
        QVERIFY(made.ok());
        view.session->records().save({*made});
        QVERIFY(view.until([&] { return view.session->records().unsaved() == 0; }));
        QCOMPARE(jobs_->size(), std::size_t{41});
        QCOMPARE(view.value(*made, "due"), Value(Date{20'000}));  // what the object has by itself
        const auto id = ObjectSource<Job>::idOf(view.session->refOf(*made).key);
        QVERIFY(id && jobs_->find(*id)->work == "step mast");
        view.session->records().remove({view.row(7)});
        QVERIFY(view.until([&] { return view.session->records().unsaved() == 0 && view.shown() == held(*jobs_); }));
        QVERIFY(other.until([&] { return other.shown() == held(*jobs_); }));
        QVERIFY(!jobs_->find(7));
        QVERIFY(view.session->steps().undo());
        QVERIFY(view.until([&] { return view.session->records().unsaved() == 0 && view.shown() == held(*jobs_); }));
        QCOMPARE(jobs_->size(), std::size_t{41});
    }

    void whatNoMemberHoldsIsKeptBesideTheObject() {
        View view(*jobs_), other(*jobs_);
        const FieldIndex picked = view.field("picked"), remark = view.field("remark");
        const Job before = *jobs_->find(3);
        QCOMPARE(view.value(view.row(3), "picked"), Value(false));
        QCOMPARE(view.value(view.row(3), "remark"), Value(std::string("none yet")));
        // By the form user: nothing of the object is another.
        view.session->records().edit(view.row(3), picked, Value(true));
        view.session->records().edit(view.row(3), remark, Value(Empty{}));
        QVERIFY(view.until([&] { return view.session->records().unsaved() == 0; }));
        QCOMPARE(jobs_->value(3, picked), Value(true));
        QCOMPARE(jobs_->value(3, remark), Value(Empty{}));
        QVERIFY(*jobs_->find(3) == before);
        // By the application, to be seen at once; another object's stay.
        QVERIFY(jobs_->setUnbound(5, remark, Value(std::string("ring first"))).ok());
        QVERIFY(other.until([&] { return other.shown() == held(*jobs_); }));
        QVERIFY(view.until([&] { return view.shown() == held(*jobs_); }));
        QCOMPARE(other.value(other.row(5), "remark"), Value(std::string("ring first")));
        QCOMPARE(other.value(other.row(4), "remark"), Value(std::string("none yet")));
        // What goes takes it along; what comes begins anew.
        QVERIFY(jobs_->remove(3));
        QCOMPARE(jobs_->value(4, remark), Value(std::string("none yet")));
        QCOMPARE(jobs_->value(5, remark), Value(std::string("ring first")));
        const ObjectId made = jobs_->add({});
        QCOMPARE(jobs_->value(made, picked), Value(false));
        // Refused in words.
        QCOMPARE(jobs_->setUnbound(5, picked, Value(std::string("yes"))).error().code, ErrorCode::InvalidInput);
        QVERIFY(!jobs_->setUnbound(5, picked, Value(Empty{})).ok());
        QCOMPARE(jobs_->setUnbound(3, picked, Value(true)).error().code, ErrorCode::NotFound);
        QVERIFY(!jobs_->setUnbound(5, view.field("hours"), Value(true)).ok());
        QVERIFY(view.until([&] { return view.shown() == held(*jobs_); }));
    }

    void savedTogetherTheyAreWrittenTogetherOrNotAtAll() {
        View view(*jobs_, Saving::Together);
        view.session->records().edit(view.row(1), view.field("work"), Value(std::string("one")));
        view.session->records().edit(view.row(2), view.field("vessel"), Value(std::int64_t{1} << 40));
        view.session->records().remove({view.row(3)});
        const auto before = held(*jobs_);
        QCOMPARE(view.session->records().saveAll(), std::size_t{3});
        QVERIFY(view.until([&] { return view.session->snapshot()->edits->count(EditState::Saving) == 0; }));
        QCOMPARE(held(*jobs_), before);
        QCOMPARE(view.edit(view.row(2), "vessel")->state, EditState::Refused);
        view.session->records().edit(view.row(2), view.field("vessel"), Value(std::int64_t{9}));
        QCOMPARE(view.session->records().saveAll(), std::size_t{3});
        QVERIFY(view.until([&] { return view.session->records().unsaved() == 0; }));
        QCOMPARE(jobs_->find(1)->work, std::string("one"));
        QCOMPARE(*jobs_->find(2)->vessel, 9);
        QVERIFY(!jobs_->find(3));
    }

    /// What was typed and what the application does meet: nothing is lost, and it is known before saving.
    void aCellThatIsTypedOverIsInConflictAtOnce() {
        View view(*jobs_, Saving::Together);
        const SourceRow row = view.row(4);
        view.session->records().edit(row, view.field("work"), Value(std::string("mine")));
        jobs_->change(4, [](Job& job) { job.work = "theirs"; });
        QVERIFY(view.until([&] { return view.edit(row, "work")->state == EditState::Conflict; }));
        QCOMPARE(view.value(row, "work"), Value(std::string("mine")));
        QCOMPARE(*view.edit(row, "work")->theirs, Value(std::string("theirs")));
        QVERIFY(!view.edit(row, "work")->message.empty());
        // Changed again, that is what is to be decided; taken back, there is nothing to decide.
        jobs_->change(4, [](Job& job) { job.work = "theirs again"; });
        QVERIFY(view.until([&] { return *view.edit(row, "work")->theirs == Value(std::string("theirs again")); }));
        jobs_->change(4, [](Job& job) { job.work = "work 4"; });
        QVERIFY(view.until([&] { return view.edit(row, "work")->state == EditState::Draft; }));
        // Another field of the record is no conflict, and comes.
        jobs_->change(4, [](Job& job) { job.isPaid = false; });
        QVERIFY(view.until([&] { return view.value(row, "paid") == Value(false); }));
        QCOMPARE(view.edit(row, "work")->state, EditState::Draft);
        // The same value is no conflict either: it is saved.
        jobs_->change(4, [](Job& job) { job.work = "mine"; });
        QVERIFY(view.until([&] { return view.session->records().unsaved() == 0; }));
        // And one whose object goes keeps what was typed.
        view.session->records().edit(row, view.field("work"), Value(std::string("still mine")));
        jobs_->remove(4);
        QVERIFY(view.until([&] { return view.edit(row, "work")->state == EditState::Conflict; }));
        QCOMPARE(view.value(row, "work"), Value(std::string("still mine")));
        view.session->records().revert(row);
        jobs_->remove(5);  // untouched, it goes
        QVERIFY(view.until([&] { return view.row(5) == kNoRow; }));
    }

    void changedRecordsGoWhereTheyBelong() {
        View view(*jobs_, Saving::EachCell, "work");
        jobs_->change(40, [](Job& job) { job.work = "a first"; });
        const ObjectId added = jobs_->add({7, {}, "zz last", {1, 2}, {1}, false});
        QVERIFY(view.until([&] {
            const auto shown = view.shown();
            return shown.size() == 41 && shown.front() == words(*jobs_, 40) && shown.back() == words(*jobs_, added);
        }));
        QCOMPARE(view.loads, 1);  // nothing was read again
    }

    /// Random work by the application and by two forms, against the objects themselves.
    void randomWorkEndsEqual() {
        for (unsigned seed = 1; seed <= static_cast<unsigned>(test::turns(24)); ++seed) {
            fill(60);
            std::mt19937 random(seed);
            const auto pick = [&](int below) { return static_cast<int>(random() % static_cast<unsigned>(below)); };
            View a(*jobs_, Saving::EachCell, "work"), b(*jobs_, Saving::EachRecord);
            int serial = 0;
            const auto anyId = [&] {
                std::vector<ObjectId> ids;
                jobs_->forEach([&](ObjectId id, const Job&) { ids.push_back(id); });
                return ids.empty() ? ObjectId{0} : ids[static_cast<std::size_t>(pick(static_cast<int>(ids.size())))];
            };
            for (int step = 0; step < 150; ++step) {
                View& view = pick(2) ? a : b;
                const std::string text = "step " + std::to_string(++serial);
                const SourceRow row = view.row(anyId());
                switch (pick(11)) {
                    case 9: {
                        const FieldIndex field = view.field(pick(2) ? "picked" : "remark");
                        const bool isRemark = field == view.field("remark");
                        const Value value = isRemark ? (pick(3) ? Value(text) : Value(Empty{})) : Value(pick(2) == 0);
                        if (const ObjectId id = anyId()) (void)jobs_->setUnbound(id, field, value);
                        break;
                    }
                    case 10:
                        if (row != kNoRow) view.session->records().edit(row, view.field("remark"), Value(text));
                        if (row != kNoRow && pick(2)) view.session->records().save({row});
                        break;
                    case 0: jobs_->add({serial, {}, text, {serial, 2}, {serial}, false}); break;
                    case 1: jobs_->remove(anyId()); break;
                    case 2:
                    case 3:
                        for (int i = pick(20); i >= 0; --i)
                            jobs_->change(anyId(), [&](Job& job) {
                                pick(2) ? void(job.work = text) : void(job.due.days = pick(30'000));
                            });
                        break;
                    case 4: view.session->reload(); break;
                    case 5:
                        if (row != kNoRow) view.session->records().edit(row, view.field("work"), Value(text));
                        if (row != kNoRow && pick(2)) view.session->records().save({row});
                        break;
                    case 6:
                        if (row != kNoRow && pick(3) == 0) view.session->records().remove({row});
                        break;
                    case 7:
                        if (const auto made =
                                view.session->records().insert({{view.field("work"), Value(text)},
                                                                {view.field("number"), Value(std::int64_t{serial})}}))
                            view.session->records().save({*made});
                        break;
                    default: {
                        std::vector<Job> all = someJobs(pick(80));
                        if (pick(10) == 0) jobs_->set(std::move(all));
                    }
                }
                a.inbox.pump(static_cast<std::size_t>(pick(6)));
                b.inbox.pump(static_cast<std::size_t>(pick(6)));
            }
            for (View* view : {&a, &b}) {
                QVERIFY(view->until([&] {
                    a.inbox.pump();
                    b.inbox.pump();
                    return view->session->snapshot()->edits->count(EditState::Saving) == 0 &&
                           !view->session->isLoading();
                }));
                view->session->records().revertAll();
                view->session->view().resort();
            }
            const auto inBoundOrder = held(*jobs_);
            auto wanted = inBoundOrder;
            std::sort(wanted.begin(), wanted.end());
            for (View* view : {&a, &b}) {
                const bool isEqual = view->until([&] {
                    auto shown = view->shown();
                    std::sort(shown.begin(), shown.end());
                    return shown == wanted;
                });
                auto shown = view->shown();
                std::sort(shown.begin(), shown.end());
                std::vector<std::string> odd;
                std::set_symmetric_difference(shown.begin(), shown.end(), wanted.begin(), wanted.end(),
                                              std::back_inserter(odd));
                for (const std::string& line : odd)
                    qWarning("%s, %d times shown, %d wanted", line.c_str(),
                             static_cast<int>(std::count(shown.begin(), shown.end(), line)),
                             static_cast<int>(std::count(wanted.begin(), wanted.end(), line)));
                QVERIFY2(isEqual, qPrintable(QString("seed %1, view %2").arg(seed).arg(view == &a ? "a" : "b")));
            }
            b.session->reload();
            QVERIFY(b.until([&] { return b.shown() == inBoundOrder; }));
            // In the order that was asked for, too.
            View fresh(*jobs_, Saving::EachCell, "work");
            a.session->view().resort();
            QVERIFY(a.until([&] { return a.order() == fresh.order(); }));
        }
    }

    /// Workers read while the owner writes: each reading is of one moment.
    void readingIsOfOneMoment() {
        ObjectSource<Job> many("jobs");
        declare(many);
        many.set(someJobs(20'000));
        std::atomic<bool> done = false;
        std::atomic<int> wrong = 0, read = 0;
        const auto source = many.source();
        std::thread reader([&] {
            while (!done) {
                LoadRequest request;
                request.binding.table = "jobs";
                const auto table = source->load(request, Cancel());
                // The owner gives each of them the same number, one after the other, in turns.
                if (!table) ++wrong;
                ++read;
            }
        });
        for (int turn = 0; turn < 40 || read < 3; ++turn) {
            for (ObjectId id = 1; id <= 20'000; id += 37) many.change(id, [&](Job& job) { job.number = turn; });
            many.add({turn, {}, "more", {}, {}, false});
            many.remove(many.size() % 2 ? 2 : 3);
        }
        done = true;
        reader.join();
        QCOMPARE(wrong.load(), 0);
    }

    void theyMayGoBeforeTheirView() {
        View view(*jobs_);
        view.session->records().edit(view.row(2), view.field("work"), Value(std::string("too late")));
        jobs_.reset();
        QVERIFY(view.until([&] { return view.edit(view.row(2), "work")->state == EditState::Refused; }));
        QVERIFY(view.edit(view.row(2), "work")->message.find("gone") != std::string::npos);
        QCOMPARE(view.shown().size(), std::size_t{40});
    }
    void theirViewMayGoWhileItSaves() {
        auto view = std::make_unique<View>(*jobs_);
        view->session->records().edit(view->row(2), view->field("work"), Value(std::string("never heard of")));
        view.reset();  // must not wait for an answer that nobody gives
        jobs_->change(2, [](Job& job) { job.work = "later"; });
        QCOMPARE(jobs_->find(2)->work, std::string("later"));
    }
};

QTEST_GUILESS_MAIN(ObjectsTest)
#include "objects_test.moc"
