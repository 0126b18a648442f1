// SPDX-License-Identifier: MIT
// An application's own objects: a million of twelve members shown, and ten thousand changed in one turn.
#include <QApplication>
#include <QElapsedTimer>
#include <QTimer>

#include "bench/measure.h"
#include "core/rows/snapshot.h"
#include "core/session/session.h"
#include "core/sources/objects/object_source.h"
#include "grid/api/grid.h"

namespace jollyrow::bench {
namespace {

struct Job {
    std::int64_t number = 0;
    std::string work, status, place;
    std::optional<int> vessel, berth;
    double hours = 0;
    Decimal labour{0, 2}, parts{0, 2};
    Date due, booked;
    bool isPaid = false;
};

std::vector<Job> jobs(std::int64_t count) {
    static const char* kStates[] = {"Booked", "In hand", "Waiting for parts", "Done"};
    std::vector<Job> all(static_cast<std::size_t>(count));
    for (std::int64_t i = 0; i < count; ++i)
        all[static_cast<std::size_t>(i)] = {i,
                                            "work " + std::to_string(i % 5000),
                                            kStates[i % 4],
                                            "berth " + std::to_string(i % 300),
                                            i % 7 ? std::optional(static_cast<int>(i % 900)) : std::nullopt,
                                            static_cast<int>(i % 60),
                                            static_cast<double>(i % 97) / 4,
                                            {i % 90'000, 2},
                                            {i % 7'000, 2},
                                            {static_cast<std::int32_t>(20'000 + i % 900)},
                                            {static_cast<std::int32_t>(19'000 + i % 900)},
                                            i % 2 == 0};
    return all;
}

void declare(ObjectSource<Job>& source) {
    source.field("number", &Job::number);
    source.field("work", &Job::work);
    source.field("status", &Job::status);
    source.field("place", &Job::place);
    source.field("vessel", &Job::vessel);
    source.field("berth", &Job::berth);
    source.field("hours", &Job::hours);
    source.field("labour", &Job::labour);
    source.field("parts", &Job::parts);
    source.field("due", &Job::due);
    source.field("booked", &Job::booked);
    source.field("paid", &Job::isPaid);
}

bool until(const std::function<bool()>& reached) {
    QElapsedTimer timer;
    timer.start();
    QTimer tick;  // sleeping in between: the workers need the processors
    tick.start(1);
    while (!reached() && timer.elapsed() < 60'000) QApplication::processEvents(QEventLoop::WaitForMoreEvents);
    return reached();
}

}  // namespace

std::vector<Figure> benchObjects(const Setting& setting) {
    std::vector<Figure> figures;
    ObjectSource<Job> source("jobs");
    declare(source);
    source.set(jobs(setting.rows));
    figures.push_back(limit("a vector of objects, until all are shown", "at most 150 ms", 150, setting.rounds, [&] {
        Grid grid;
        grid.resize(1280, 800);
        grid.show();
        return timed([&] {
            if (!grid.open(source)) qFatal("the objects cannot be opened");
            until([&] { return grid.lineCount() == setting.rows && !grid.isLoading(); });
            grid.viewport()->repaint();
        });
    }));
    Grid grid;
    grid.resize(1280, 800);
    grid.show();
    if (!grid.open(source)) qFatal("the objects cannot be opened");
    until([&] { return grid.lineCount() == setting.rows && !grid.isLoading(); });
    int turn = 0;
    figures.push_back(
        limit("10 000 objects changed in a turn, to the repaint", "at most a frame", 16.7, setting.rounds, [&] {
            ++turn;
            const std::int64_t step = std::max<std::int64_t>(1, setting.rows / 10'000);
            return timed([&] {
                for (ObjectId id = 1; id <= setting.rows; id += step)
                    source.change(id, [&](Job& job) { job.hours = turn; });
                until([&] { return grid.recordAt(0).value("hours") == Value(static_cast<double>(turn)); });
                grid.viewport()->repaint();
            });
        }));
    return figures;
}

}  // namespace jollyrow::bench
