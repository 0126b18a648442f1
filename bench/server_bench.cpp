// SPDX-License-Identifier: MIT
// Loading from a PostgreSQL server of the bench's own, against the same rows received by COPY and dropped.
#include "bench/measure.h"

#include <libpq-fe.h>

#include <QElapsedTimer>
#include <atomic>

#include "core/columns/table.h"
#include "core/sources/source.h"
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
    return figures;
}

}  // namespace jollyrow::bench
