// SPDX-License-Identifier: MIT
// Banners in a session: which records are one, what they say, where heads stand under sorts, filters, groups, edits and
// reloads, against a plain model; what cannot be had is said.
#include <QtTest>

#include <random>

#include "core/design/find.h"
#include "core/design/make_design.h"
#include "core/design/planned_banner.h"
#include "core/exports/row_writer.h"
#include "core/session/session.h"
#include "tests/session/inbox.h"
#include "tests/sources/database.h"

using namespace jollyrow;

class BannerTest : public QObject {
    Q_OBJECT
    QTemporaryDir folder_;
    QString path_;
    Inbox inbox_;
    std::unique_ptr<Session> session_;
    int snapshots_ = 0, loads_ = 0;

    bool until(const std::function<bool()>& done) {
        return QTest::qWaitFor([&] {
            inbox_.pump();
            return done();
        });
    }
    Design design() {
        Design made = designFor(*(*openSource(path_.toStdString()))->schema({"lines", ""}),
                                {"sqlite", path_.toStdString(), "lines", ""});
        return made;
    }
    void open(Design made) {
        snapshots_ = loads_ = 0;
        SessionListener listener;
        listener.onSnapshot = [this] { ++snapshots_; };
        listener.onLoaded = [this](const Result<void>&) { ++loads_; };
        session_ = std::make_unique<Session>([this](auto call) { inbox_.post(std::move(call)); }, listener);
        QVERIFY(session_->open(std::move(made), path_.toStdString()).ok());
        QVERIFY(until([this] { return loads_ == 1; }));
    }
    /// Waits until the lines are these.
    bool shows(const std::vector<int>& ids) {
        return until([&] { return shown() == ids; });
    }
    std::vector<int> shown() {
        std::vector<int> ids;
        const Snapshot& snapshot = *session_->snapshot();
        for (std::int64_t line = 0; line < snapshot.lineCount(); ++line)
            if (const Line at = snapshot.line(static_cast<ViewLine>(line)); at.kind == LineKind::Record)
                ids.push_back(
                    static_cast<int>(std::get<std::int64_t>(snapshot.value(at.row, *session_->schema().find("id")))));
        return ids;
    }
    QString caption(int id) {
        BannerReader reader(*session_->snapshot(), session_->plan());
        const auto row = static_cast<SourceRow>(id - 1);
        const PlannedBanner* banner = reader.of(row);
        std::string text;
        if (banner) reader.appendCaption(row, *banner, text);
        return banner ? QString::fromStdString(text) : QStringLiteral("none");
    }
    static BannerDesign heads(std::string where = "kind = 'head'") {
        BannerDesign banner;
        banner.where = std::move(where);
        banner.heads = true;
        return banner;
    }

  private Q_SLOTS:
    void init() {
        static int n = 0;
        path_ = folder_.filePath(QStringLiteral("lines%1.db").arg(n++));
        run(path_,
            "CREATE TABLE lines (id INTEGER PRIMARY KEY, kind TEXT, name TEXT, amount INTEGER);"
            "INSERT INTO lines VALUES (1, 'item', 'loose', 9), (2, 'head', 'Hull', NULL), (3, 'item', 'scrape', 5),"
            "(4, 'item', 'paint', 2), (5, 'item', 'wax', 7), (6, 'head', 'Engine', NULL), (7, 'item', 'oil', 3),"
            "(8, 'item', 'filter', 1), (9, 'head', 'Rig', 4), (10, 'note', 'ask Ines', NULL)");
    }
    void cleanup() { session_.reset(); }

    void captionsAreWrittenByPattern() {
        Design made = design();
        made.banners = {{"kind = 'head'", "{name}: {amount}"}, {"kind = 'note' OR kind = 'head'", ""}};
        open(made);
        QCOMPARE(caption(9), QString("Rig: 4"));
        QCOMPARE(caption(2), QString("Hull: "));
        QCOMPARE(caption(10), QString("note"));  // the first text
        QCOMPARE(caption(3), QString("none"));
        QCOMPARE(session_->plan().banners[0].column, 2);
        // Like any other record: it is sorted with them.
        SortDesign by;
        by.field = "name";
        made.sort = {by};
        session_->setDesign(made);
        QVERIFY(shows({10, 6, 8, 2, 1, 7, 4, 9, 3, 5}));
    }

    void headsKeepTheirRecordsUnderSortAndFilter() {
        Design made = design();
        made.banners = {heads()};
        open(made);
        QVERIFY(shows({1, 2, 3, 4, 5, 6, 7, 8, 9, 10}));
        SortDesign by;
        by.field = "amount";
        made.sort = {by};
        session_->setDesign(made);
        QVERIFY(shows({1, 2, 4, 3, 5, 6, 8, 7, 9, 10}));
        made.sort[0].direction = Direction::Descending;
        session_->setDesign(made);
        QVERIFY(shows({1, 2, 5, 3, 4, 6, 7, 8, 9, 10}));
        made.filter = {{"amount > 4", "", "", true}};
        session_->setDesign(made);
        QVERIFY(shows({1, 2, 5, 3}));
        QCOMPARE(session_->snapshot()->filter.rowsOut, std::int64_t{4});
        made.filter = {{"amount = 4", "", "", true}};  // a head that meets it by itself
        session_->setDesign(made);
        QVERIFY(shows({9}));
        made.filter = {{"amount = 1", "", "", true}, {"kind = 'item'", "", "", true}};
        session_->setDesign(made);
        QVERIFY(shows({6, 8}));
        made.filter = {{"amount = 100", "", "", true}};
        session_->setDesign(made);
        QVERIFY(shows({}));
        made.filter.clear();
        made.banners[0].heads = false;
        session_->setDesign(made);
        QVERIFY(until([this] { return shown().size() == 10; }));
        QVERIFY(until([this] { return shown().front() == 1 && shown()[1] == 5; }));
    }

    void anEditMakesAndUnmakesAHead() {
        Design made = design();
        made.banners = {heads()};
        SortDesign by;
        by.field = "amount";
        made.sort = {by};
        open(made);
        QVERIFY(shows({1, 2, 4, 3, 5, 6, 8, 7, 9, 10}));
        const FieldIndex kind = *session_->schema().find("kind");
        session_->records().edit(SourceRow{3}, kind, std::string("head"));  // "paint"
        QVERIFY(until([this] { return caption(4) != "none"; }));
        QVERIFY(shows({1, 2, 4, 3, 5, 6, 8, 7, 9, 10}));  // nobody moves
        QVERIFY(session_->view().orderIsStale());
        session_->view().resort();
        QVERIFY(shows({1, 2, 3, 4, 5, 6, 8, 7, 9, 10}));
        session_->records().edit(SourceRow{5}, kind, std::string("item"));  // "Engine"
        session_->view().resort();
        QVERIFY(until([this] { return caption(6) == "none"; }));
        QVERIFY(shows({1, 2, 3, 4, 8, 7, 5, 6, 9, 10}));
        QVERIFY(until([this] { return session_->records().unsaved() == 0; }));
        session_->reload();
        QVERIFY(until([this] { return loads_ == 2; }));
        QVERIFY(shows({1, 2, 3, 4, 8, 7, 5, 6, 9, 10}));
    }

    void inGroupsHeadsStandInTheirs() {
        Design made = design();
        made.banners = {heads()};
        GroupDesign group;
        group.key.field = "kind";
        made.groups = {group};
        SortDesign by;
        by.field = "amount";
        by.direction = Direction::Descending;
        made.sort = {by};
        open(made);
        QVERIFY(until([this] { return session_->snapshot()->grouped != nullptr; }));
        QVERIFY(shows({2, 6, 9, 1, 5, 3, 4, 7, 8, 10}));
    }

    /// Random heads, sorts and filters against a plain model.
    void isWhatAModelSays() {
        std::mt19937 random(5);
        std::string rows;
        std::vector<int> isHead, amount;
        for (int i = 1; i <= 400; ++i) {
            isHead.push_back(random() % 9 == 0);
            amount.push_back(static_cast<int>(random() % 30));
            rows += (rows.empty() ? "" : ",") + std::string("(") + std::to_string(i) + ",'" +
                    (isHead.back() ? "head" : "item") + "','n" + std::to_string(i) + "'," +
                    std::to_string(amount.back()) + ")";
        }
        run(path_, "DELETE FROM lines; INSERT INTO lines VALUES " + rows);
        Design made = design();
        made.banners = {heads()};
        open(made);
        for (int round = 0; round < 25; ++round) {
            const int least = static_cast<int>(random() % 32);
            const bool sorts = random() % 3 != 0, filters = random() % 3 != 0, down = random() % 2;
            made.sort.clear();
            made.filter.clear();
            if (sorts) {
                SortDesign by;
                by.field = "amount";
                by.direction = down ? Direction::Descending : Direction::Ascending;
                made.sort = {by};
            }
            if (filters) made.filter = {{"amount >= " + std::to_string(least), "", "", true}};
            session_->setDesign(made);
            std::vector<int> expected;
            for (int i = 0; i < 400;) {
                int end = i + 1;
                while (end < 400 && !isHead[static_cast<std::size_t>(end)]) ++end;
                std::vector<int> section;
                for (int j = i; j < end; ++j)
                    if (!filters || amount[static_cast<std::size_t>(j)] >= least) section.push_back(j + 1);
                const bool headed = isHead[static_cast<std::size_t>(i)];
                const bool own = !section.empty() && section.front() == i + 1 && headed;
                const auto first = section.begin() + (own ? 1 : 0);
                if (sorts)
                    std::stable_sort(first, section.end(), [&](int a, int b) {
                        const int x = amount[static_cast<std::size_t>(a) - 1],
                                  y = amount[static_cast<std::size_t>(b) - 1];
                        return down ? x > y : x < y;
                    });
                if (headed && !own && !section.empty()) section.insert(section.begin(), i + 1);
                expected.insert(expected.end(), section.begin(), section.end());
                i = end;
            }
            QVERIFY2(shows(expected), qPrintable(QString::number(round)));
        }
    }

    void onlyWhatABannerSaysIsFound() {
        Design made = design();
        made.banners = {{"kind = 'head'", "section {name}"}};
        open(made);
        const auto found = [this](const char* text) {
            const auto set =
                findRecords(findQuery(text, session_->plan()), *session_->snapshot(), session_->plan(), Cancel());
            std::vector<int> ids;
            for (std::uint32_t row = 0; row < (*set)->rows; ++row)
                if ((*set)->contains(row)) ids.push_back(static_cast<int>(row) + 1);
            return ids;
        };
        QCOMPARE(found("section"), (std::vector<int>{2, 6, 9}));
        QCOMPARE(found("head"), std::vector<int>{});  // its kind is not seen
        QCOMPARE(found("hull"), std::vector<int>{2});
        QCOMPARE(found("oil"), std::vector<int>{7});
    }

    /// For people a heading, for machines a record that says what it is the heading of.
    void itIsWrittenOut() {
        Design made = design();
        made.banners = {{"kind = 'head'", "section {name}"}};
        open(made);
        const auto written = [this](RowFormat format, const ViewPlan* plan) {
            std::string out;
            const auto done = writeRows(
                *session_->snapshot(), session_->plan().columns, {format, 3, plan},
                [&](std::string_view piece) {
                    out += piece;
                    return Result<void>();
                },
                Cancel());
            return QString::fromStdString(done ? out : done.error().message);
        };
        const ViewPlan* plan = &session_->plan();
        const QStringList text = written(RowFormat::Text, plan).split(u'\n');
        QCOMPARE(text[2], QString("section Hull"));
        QVERIFY(text[1].contains("loose") && text[3].contains("scrape"));
        QVERIFY(written(RowFormat::Jsonl, plan)
                    .split(u'\n')[1]
                    .startsWith("{\"kind\":\"record\",\"banner\":\"section Hull\",\"values\":{"));
        QVERIFY(!written(RowFormat::Jsonl, plan).split(u'\n')[0].contains("banner"));
        QCOMPARE(written(RowFormat::Csv, plan), written(RowFormat::Csv, nullptr));
        QVERIFY(!written(RowFormat::Text, nullptr).contains("section"));
    }

    /// A condition on an empty parameter is lifted; the banners after it are what they were.
    void aLiftedBannerLeavesTheOthers() {
        Design made = design();
        ParameterDesign kind;
        kind.name = "kind";
        made.parameters = {kind};
        made.banners = {{"kind = :kind", "chosen {name}"}, {"kind = 'head'", "section {name}"}};
        open(made);
        QVERIFY(session_->plan().findings.empty());
        QCOMPARE(caption(2), QString("section Hull"));
        QCOMPARE(caption(10), QString("none"));
        session_->view().setParameter("kind", std::string("note"));
        QVERIFY(until([this] { return caption(10) == "chosen ask Ines"; }));
        QCOMPARE(caption(2), QString("section Hull"));
        session_->view().setParameter("kind", std::string("head"));
        QVERIFY(until([this] { return caption(2) == "chosen Hull"; }));
    }

    void whatCannotBeHadIsSaid() {
        Design made = design();
        made.banners = {{"nowhere > 3", ""},
                        {"kind", ""},
                        {"kind = 'head'", "{nobody"},
                        {"kind = 'head'", "{nobody}"},
                        {"kind = 'note'", ""}};
        open(made);
        QCOMPARE(session_->plan().banners.size(), std::size_t{1});
        QCOMPARE(std::count_if(session_->plan().findings.begin(), session_->plan().findings.end(),
                               [](const Finding& f) { return f.where == "banners"; }),
                 4);
        QCOMPARE(caption(10), QString("note"));
    }
};

QTEST_GUILESS_MAIN(BannerTest)
#include "banner_test.moc"
