// SPDX-License-Identifier: MIT
// Loading from a PostgreSQL server of the bench's own, against the same rows received by COPY and dropped.
#include "bench/measure.h"

#include <libpq-fe.h>

#include <QApplication>
#include <QElapsedTimer>
#include <QTest>

#include <atomic>
#include <thread>

#include "core/columns/table.h"
#include "core/design/grouping.h"
#include "core/design/make_design.h"
#include "core/rows/snapshot.h"
#include "core/session/session.h"
#include "core/sources/postgres/pg_source.h"
#include "core/sources/source.h"
#include "grid/api/grid.h"
#include "tests/rules/postgres_server.h"

namespace jollyrow::bench {
namespace {

void makeJobs(test::PostgresServer& server, std::int64_t rows) {
    const std::string wrong = server.execute(fmt::format(
        "CREATE TABLE vessels (id integer PRIMARY KEY, name text NOT NULL); INSERT INTO vessels SELECT i, 'Vessel ' || "
        "i FROM "
        "generate_series(1, 20000) AS i; CREATE TABLE jobs (number integer PRIMARY KEY, vessel integer REFERENCES "
        "vessels, "
        "work text NOT NULL, status varchar(20) NOT NULL, booked_on date, due_on date, hours numeric(6,2), labour "
        "numeric(12,2), parts numeric(12,2), paid boolean, seen timestamp, notes text); INSERT INTO jobs SELECT i, i % "
        "20000 "
        "+ 1, 'Work ' || i % 5000, (ARRAY['Quoted','Booked','In hand','Done'])[i % 4 + 1], date '2020-01-01' + i % "
        "2000, CASE "
        "WHEN i % 7 > 0 THEN date '2020-02-01' + i % 2000 END, i % 400 / 4.0, i % 90000 / 4.0, i % 7000 / 3.0, i % 2 = "
        "0, "
        "timestamp '2020-01-01' + i * interval '1 second', CASE WHEN i % 5 = 0 THEN 'Note ' || i END FROM "
        "generate_series(1, "
        "{}) AS i",
        rows));
    if (!wrong.empty()) qFatal("%s", wrong.c_str());
}

/// The same columns in the same order, received and dropped.
void receive(const std::string& address) {
    PGconn* connection = PQconnectdb(address.c_str());
    PQclear(PQexec(connection, "COPY (SELECT * FROM jobs ORDER BY number) TO STDOUT (FORMAT binary)"));
    char* row = nullptr;
    while (PQgetCopyData(connection, &row, 0) > 0) PQfreemem(row);
    PQfinish(connection);
}

/// Turns of the window's loop, the longest in milliseconds, while others change so many records a second: grouped,
/// sorted and summed up, all of them shown as they come.
double longestTurnWhileOthersWrite(const std::string& address, std::int64_t rows, int perSecond, int seconds) {
    Grid grid;
    grid.resize(1280, 800);
    auto source = *openSource(address);
    Design design = designFor(*source->schema({"jobs", "", {}}, Cancel()), {"postgresql", address, "jobs", ""});
    GroupDesign status;
    status.key.field = "status";
    design.groups = {status};
    design.sort = {{"due_on", Direction::Ascending, Empties::Last}};
    SummaryDesign sum;
    sum.column = "hours";
    sum.name = newSummaryName(design, sum);
    design.summaries.push_back(sum);
    design.grid.followsOthers = true;
    grid.show();
    if (!grid.open(design, QString::fromStdString(address)).ok()) qFatal("the form did not open");
    if (!QTest::qWaitFor([&] { return !grid.isLoading() && grid.snapshot() && grid.snapshot()->grouped; }, 900'000))
        qFatal("the form did not load");
    QTest::qWait(1500);  // it has begun to listen
    std::atomic<std::int64_t> seen = 0;
    QObject::connect(&grid, &Grid::changedElsewhere, &grid, [&](int records) { seen += records; });
    std::thread writer([&] {
        PGconn* other = PQconnectdb(address.c_str());
        const auto begun = std::chrono::steady_clock::now();
        for (std::int64_t i = 0; i < std::int64_t{perSecond} * seconds; ++i) {
            std::this_thread::sleep_until(begun + std::chrono::microseconds(i * 1'000'000 / perSecond));
            PQclear(
                PQexec(other, fmt::format("UPDATE jobs SET hours = hours + 1, due_on = due_on + 1 WHERE number = {}",
                                          i * 7919 % rows + 1)
                                  .c_str()));
        }
        PQfinish(other);
    });
    QElapsedTimer whole, turn;
    whole.start();
    double longest = 0;
    while (whole.elapsed() < seconds * 1000) {
        turn.start();
        QApplication::processEvents(QEventLoop::AllEvents, 5);
        longest = std::max(longest, static_cast<double>(turn.nsecsElapsed()) / 1e6);
        std::this_thread::sleep_for(std::chrono::microseconds(200));
    }
    writer.join();
    if (seen < std::int64_t{perSecond} * seconds / 2) fmt::print(stderr, "only {} changes were seen\n", seen.load());
    return longest;
}

}  // namespace

std::vector<Figure> benchServer(const Setting& setting) {
    test::PostgresServer server;
    if (const std::string wrong = server.start(); !wrong.empty()) {
        fmt::print(stderr, "no server: {}\n", wrong);
        return {};
    }
    makeJobs(server, setting.rows);
    const std::string address = server.address();
    const auto source = *openSource(address);
    LoadRequest request;
    request.binding.table = "jobs";
    const auto load = [&](const LoadRequest& asked) {
        return timed([&] {
            if (const auto loaded = source->load(asked, Cancel()); !loaded)
                qFatal("%s", loaded.error().message.c_str());
        });
    };
    std::vector<Figure> figures;
    figures.push_back(compare(
        "load all jobs from PostgreSQL", "binary COPY in their order, received and dropped", "at most 1.15",
        setting.rounds, [&] { return load(request); }, [&] { return timed([&] { receive(address); }); }));
    LoadRequest labelled = request;
    labelled.binding.related = {"vessel.name"};
    figures.push_back(compare(
        "the same with the label of a look-up", "without it", "at most 1.3", setting.rounds,
        [&] { return load(labelled); }, [&] { return load(request); }));
    figures.push_back(limit("first records from PostgreSQL", "at most 150 ms", 150, setting.rounds, [&] {
        LoadRequest some = request;
        const Cancel cancel;
        QElapsedTimer timer;
        std::atomic<double> first = 0;
        some.onPart = [&](const std::shared_ptr<const Table>&, const LoadProgress&) {
            if (first == 0) first = static_cast<double>(timer.nsecsElapsed()) / 1e6;
            cancel.request();
        };
        timer.start();
        (void)source->load(some, cancel);
        return first.load();
    }));
    if (const std::string wrong = server.execute(postgres::triggerSql("jobs", {"number"})); !wrong.empty())
        qFatal("%s", wrong.c_str());
    figures.push_back(limit("longest turn of a window while others change 1 000 records a second", "at most 16 ms", 16,
                            1, [&] { return longestTurnWhileOthersWrite(address, setting.rows, 1000, 6); }));
    return figures;
}

}  // namespace jollyrow::bench
