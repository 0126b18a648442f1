// SPDX-License-Identifier: MIT
// Loading the jobs of the boatyard against one thread that steps and reads every column and keeps nothing; the whole
// process's memory; and the window: first rows painted, answers while loading, cancel.
#include <sys/wait.h>
#include <unistd.h>

#include <QApplication>
#include <QElapsedTimer>

#include <chrono>
#include <cstdio>
#include <fstream>
#include <thread>

#include <sqlite3.h>

#include "bench/measure.h"
#include "core/design/make_design.h"
#include "core/rows/snapshot.h"
#include "core/session/session.h"
#include "core/sources/source.h"
#include "grid/api/grid.h"

namespace jollyrow::bench {
namespace {

std::shared_ptr<const Table> loadJobs(const std::string& path) {
    auto source = openSource(path);
    LoadRequest request;
    request.binding = {"jobs", ""};
    return *(*source)->load(request, Cancel());
}

/// The boatyard without its vessels' pictures: reading names out of records of two kilobytes would measure the disk.
std::string withoutPictures(const std::string& path) {
    const std::string plain = path + ".plain";
    std::remove(plain.c_str());
    sqlite3* db = nullptr;
    sqlite3_open(path.c_str(), &db);
    sqlite3_exec(db, ("VACUUM INTO '" + plain + "'").c_str(), nullptr, nullptr, nullptr);
    sqlite3_close(db);
    sqlite3_open(plain.c_str(), &db);
    sqlite3_exec(db, "UPDATE vessels SET picture = NULL; VACUUM", nullptr, nullptr, nullptr);
    sqlite3_close(db);
    return plain;
}

/// Only some fields, as a grid with these columns asks for.
void loadFields(const std::string& path, const std::vector<std::string>& names) {
    auto source = openSource(path);
    LoadRequest request;
    request.binding = {"jobs", ""};
    request.binding.related = {"vessel.name", "berth.code"};
    const auto schema = *(*source)->schema(request.binding);
    request.wanted.assign(schema.fields.size(), false);
    for (const std::string& name : names)
        if (const auto field = schema.find(name)) request.wanted[static_cast<std::size_t>(raw(*field))] = true;
    (void)*(*source)->load(request, Cancel());
}

void stepJobs(const std::string& path) {
    sqlite3* db = nullptr;
    sqlite3_open_v2(path.c_str(), &db, SQLITE_OPEN_READONLY | SQLITE_OPEN_NOMUTEX, nullptr);
    sqlite3_stmt* statement = nullptr;
    sqlite3_prepare_v2(db, "SELECT * FROM jobs", -1, &statement, nullptr);
    const int columns = sqlite3_column_count(statement);
    std::size_t kept = 0;
    while (sqlite3_step(statement) == SQLITE_ROW)
        for (int i = 0; i < columns; ++i) {
            switch (sqlite3_column_type(statement, i)) {
                case SQLITE_INTEGER: kept += static_cast<std::size_t>(sqlite3_column_int64(statement, i)); break;
                case SQLITE_FLOAT: kept += static_cast<std::size_t>(sqlite3_column_double(statement, i)); break;
                case SQLITE_NULL: break;
                default: kept += static_cast<std::size_t>(*sqlite3_column_text(statement, i)); break;
            }
        }
    volatile std::size_t sink = kept;
    (void)sink;
    sqlite3_finalize(statement);
    sqlite3_close(db);
}

/// Megabytes at the peak of a child process that loads all jobs and keeps them.
double peakMegabytes(const std::string& path) {
    int channel[2];
    if (pipe(channel) != 0) return 0;
    const pid_t child = fork();
    if (child == 0) {
        const char* self = "/proc/self/clear_refs";
        std::ofstream(self) << 5;  // the peak counts from here, not from the bench before
        const auto table = loadJobs(path);
        double peak = 0;
        std::ifstream status("/proc/self/status");
        for (std::string line; std::getline(status, line);)
            if (line.starts_with("VmHWM:")) peak = std::strtod(line.c_str() + 6, nullptr) / 1024;
        const ssize_t written = write(channel[1], &peak, sizeof peak);
        _exit(table && written == sizeof peak ? 0 : 1);
    }
    double peak = 0;
    if (read(channel[0], &peak, sizeof peak) != sizeof peak) peak = 0;
    waitpid(child, nullptr, 0);
    close(channel[0]);
    close(channel[1]);
    return peak;
}

Design jobsDesign(const std::string& path) {
    auto source = openSource(path);
    return designFor(*(*source)->schema({"jobs", ""}), {"sqlite", path, "jobs", ""});
}

/// A window that has nothing to do sleeps; one that spins would take a core from the workers it waits for.
void letOthersWork() { std::this_thread::sleep_for(std::chrono::microseconds(200)); }

/// From open() to the paint that shows the first rows; `longestMs` is the longest the window did not answer meanwhile.
double firstRows(const Setting& setting, double& longestMs, double& cancelMs) {
    Grid grid;
    grid.resize(1280, 800);
    grid.show();
    QApplication::processEvents();
    const Design design = jobsDesign(setting.database);
    QElapsedTimer timer, turn;
    timer.start();
    if (!grid.open(design, QString::fromStdString(setting.database)).ok()) return -1;
    const auto pump = [&] {
        turn.start();
        QApplication::processEvents(QEventLoop::AllEvents, 5);
        longestMs = std::max(longestMs, static_cast<double>(turn.nsecsElapsed()) / 1e6);
        letOthersWork();
    };
    while (grid.lineCount() == 0 && timer.elapsed() < 10000) pump();
    grid.viewport()->repaint();
    const double first = static_cast<double>(timer.nsecsElapsed()) / 1e6;
    for (int i = 0; i < 20 && grid.isLoading(); ++i) pump();
    QElapsedTimer cancel;
    cancel.start();
    grid.cancelLoad();
    while (grid.isLoading() && cancel.elapsed() < 10000) QApplication::processEvents(QEventLoop::AllEvents, 1);
    cancelMs = static_cast<double>(cancel.nsecsElapsed()) / 1e6;
    return first;
}

/// Takes nothing, so that edits stay and the database is as it was.
class RefusingStore final : public Store {
  public:
    Result<std::vector<Outcome>> write(std::span<const RecordWrite> records, Atomicity, const Cancel&) override {
        return std::vector<Outcome>(records.size(), Problem{ErrorCode::Refused, {}, "Not today."});
    }
};

/// Turns of the event loop until `done`, at most half a minute; the longest of them in milliseconds.
double longestTurn(const std::function<bool()>& done) {
    QElapsedTimer whole, turn;
    whole.start();
    double longest = 0;
    while (!done() && whole.elapsed() < 30'000) {
        turn.start();
        QApplication::processEvents(QEventLoop::AllEvents, 5);
        longest = std::max(longest, static_cast<double>(turn.nsecsElapsed()) / 1e6);
        letOthersWork();
    }
    return longest;
}

/// The longest that the window does not answer while all records are read again, with 10 000 of them selected and 100
/// edited.
double reloadPause(const Setting& setting) {
    Grid grid;
    grid.resize(1280, 800);
    grid.show();
    Session& session = grid.session();
    const auto opened = session.open(
        jobsDesign(setting.database), *openSource(setting.database),
        []() -> Result<std::unique_ptr<Store>> { return std::unique_ptr<Store>(std::make_unique<RefusingStore>()); });
    if (!opened.ok()) return -1;
    longestTurn([&] { return !session.isLoading(); });
    const std::int64_t last = std::min<std::int64_t>(grid.lineCount(), 10'000) - 1;
    grid.selection().setCurrentCell(0, 0);
    grid.selection().showLine(last);
    const QPointF at = grid.places().line(last).center();
    for (const auto type : {QEvent::MouseButtonPress, QEvent::MouseButtonRelease}) {
        QMouseEvent event(type, at, grid.viewport()->mapToGlobal(at), Qt::LeftButton, Qt::LeftButton,
                          Qt::ShiftModifier);
        QApplication::sendEvent(grid.viewport(), &event);
    }
    const auto hours = session.schema().find("hours");
    std::vector<CellWrite> cells;
    for (std::int64_t line = 0; hours && line < last; line += std::max<std::int64_t>(1, last / 100))
        cells.push_back({session.snapshot()->line(static_cast<ViewLine>(line)).row, *hours, Value(Decimal{1, 2})});
    session.records().edit(cells);
    longestTurn([&] { return session.snapshot()->edits->count(EditState::Saving) == 0; });
    const std::int64_t selected = grid.selection().count();
    session.reload();
    const double longest = longestTurn([&] { return !session.isLoading(); });
    const bool kept =
        grid.selection().count() == selected && selected == last + 1 && session.records().unsaved() == cells.size();
    return kept ? longest : -1;
}

}  // namespace

std::vector<Figure> benchLoading(const Setting& setting) {
    std::vector<Figure> figures;
    figures.push_back(compare(
        "load all jobs from SQLite", "one thread steps and reads every column", "at most 1.0", setting.rounds,
        [&] { return timed([&] { loadJobs(setting.database); }); },
        [&] { return timed([&] { stepJobs(setting.database); }); }));
    const std::vector<std::string> keys = {"number", "hours", "status", "vessel", "berth"};
    std::vector<std::string> labels = keys;
    labels.insert(labels.end(), {"vessel.name", "berth.code"});
    const std::string plain = withoutPictures(setting.database);
    figures.push_back(compare(
        "load five fields and the labels of two look-ups", "the same without the labels", "at most 1.3", setting.rounds,
        [&] { return timed([&] { loadFields(plain, labels); }); },
        [&] { return timed([&] { loadFields(plain, keys); }); }));
    std::remove(plain.c_str());
    const double peak = peakMegabytes(setting.database);
    figures.push_back(
        {"peak memory of a process that loads them (MB)", peak / 300, peak, 300, "300 MB", "at most 1.0"});
    double longest = 0, cancel = 0;
    figures.push_back(limit("open a window to first rows painted", "at most 150 ms", 150, setting.rounds,
                            [&] { return firstRows(setting, longest, cancel); }));
    figures.push_back(
        {"longest the window did not answer while loading", longest / 16.7, longest, 16.7, "a frame", "at most 1.0"});
    figures.push_back(limit("longest pause while reloading, 10 000 selected and 100 edited", "at most a frame", 16.7,
                            setting.rounds, [&] { return reloadPause(setting); }));
    figures.push_back({"cancel of a load", cancel / 100, cancel, 100, "the limit", "at most 100 ms"});
    return figures;
}

}  // namespace jollyrow::bench
