// SPDX-License-Identifier: MIT
// jollyrow-bench [options], see --help. The ratio tables of docs/bench.md. A database that `jollyrow demo-data` made
// before saves making one.
#include "bench/measure.h"

#include <fmt/format.h>

#include <QApplication>
#include <QCommandLineParser>
#include <QElapsedTimer>
#include <QTemporaryDir>

#include <algorithm>
#include <fstream>
#include <nlohmann/json.hpp>

#include "demo/boatyard.h"
#include "workbench/app/look.h"

namespace jollyrow::bench {

double timed(const std::function<void()>& work) {
    QElapsedTimer timer;
    timer.start();
    work();
    return static_cast<double>(timer.nsecsElapsed()) / 1e6;
}

double median(std::vector<double> values) {
    std::sort(values.begin(), values.end());
    return values.empty() ? 0 : values[values.size() / 2];
}

Figure compare(std::string name, std::string against, std::string wanted, int rounds,
               const std::function<double()>& ours, const std::function<double()>& theirs) {
    std::vector<double> a, b, ratios;
    ours();
    theirs();  // one round unmeasured: caches warm for both
    for (int i = 0; i < rounds; ++i) {
        a.push_back(ours());
        b.push_back(theirs());
        ratios.push_back(a.back() / std::max(b.back(), 1e-6));
    }
    return {std::move(name), median(ratios), median(a), median(b), std::move(against), std::move(wanted)};
}

Figure limit(std::string name, std::string wanted, double limitMs, int rounds, const std::function<double()>& ours) {
    std::vector<double> a;
    for (int i = 0; i < rounds; ++i) a.push_back(ours());
    return {std::move(name), median(a) / limitMs, median(a), limitMs, "the limit", std::move(wanted)};
}

}  // namespace jollyrow::bench

namespace {

using namespace jollyrow::bench;

constexpr std::pair<const char*, std::vector<Figure> (*)(const Setting&)> kParts[] = {
    {"loading", benchLoading},    {"sorting", benchSorting}, {"painting", benchPainting}, {"faces", benchFaces},
    {"columns", benchColumns},    {"rules", benchRules},     {"groups", benchGroups},     {"editing", benchEditing},
    {"frames", benchGroupFrames}, {"objects", benchObjects}, {"server", benchServer}};

QStringList partNames() {
    QStringList names;
    for (const auto& [name, run] : kParts) names += name;
    return names;
}

}  // namespace

int main(int argc, char** argv) {
    using namespace jollyrow;
    using namespace jollyrow::bench;
    QApplication application(argc, argv);
    applyLook(application, Theme::Light);
    QCommandLineParser parser;
    parser.setApplicationDescription("Prints measured figures as ratios (docs/bench.md).");
    parser.addHelpOption();
    const QCommandLineOption tiny("tiny", "A few thousand records, once: whether it runs."),
        rounds("rounds", "How often each is measured.", "N"), rows("rows", "Jobs of the boatyard.", "N"),
        database("database", "A boatyard made before.", "FILE"),
        only("only", "One part: " + partNames().join(", ") + ".", "PART"),
        json("json", "The figures as JSON, besides.", "FILE");
    parser.addOptions({tiny, rounds, rows, database, only, json});
    parser.process(application);
    if (parser.isSet(only) && !partNames().contains(parser.value(only))) {
        fmt::print(stderr, "There is no part {}; there are {}.\n", parser.value(only).toStdString(),
                   partNames().join(", ").toStdString());
        return 2;
    }
    Setting setting;
    if (parser.isSet(tiny)) setting = {3000, 1, {}};
    if (parser.isSet(rounds)) setting.rounds = std::max(1, parser.value(rounds).toInt());
    if (parser.isSet(rows)) setting.rows = std::max(1LL, parser.value(rows).toLongLong());
    QTemporaryDir folder;
    const bool isMade = parser.isSet(database);
    setting.database = (isMade ? parser.value(database) : folder.filePath("boatyard.db")).toStdString();
    if (!isMade) fmt::print(stderr, "making a boatyard of {} jobs\n", setting.rows);
    if (auto made = isMade ? Result<void>() : demo::makeBoatyard(setting.database, {setting.rows, 1}, {}); !made) {
        fmt::print(stderr, "{}\n", made.error().message);
        return 1;
    }
    std::vector<Figure> figures;
    for (const auto& [name, run] : kParts) {
        if (parser.isSet(only) && parser.value(only) != QLatin1String(name)) continue;
        const std::vector<Figure> part = run(setting);
        figures.insert(figures.end(), part.begin(), part.end());
    }
    fmt::print("{:<52} {:>8} {:>10} {:>10}  {}\n", "what", "ratio", "ours ms", "theirs ms", "against; aim");
    nlohmann::ordered_json list = nlohmann::ordered_json::array();
    for (const Figure& f : figures) {
        fmt::print("{:<52} {:>8.3f} {:>10.2f} {:>10.2f}  {}; {}\n", f.name, f.ratio, f.oursMs, f.theirsMs, f.against,
                   f.wanted);
        list.push_back({{"name", f.name},
                        {"ratio", f.ratio},
                        {"ours_ms", f.oursMs},
                        {"theirs_ms", f.theirsMs},
                        {"against", f.against}});
    }
    if (!parser.isSet(json)) return 0;
    std::ofstream file(parser.value(json).toStdString());
    file << list.dump(2) << "\n";
    if (file.flush()) return 0;
    fmt::print(stderr, "{} could not be written.\n", parser.value(json).toStdString());
    return 1;
}
