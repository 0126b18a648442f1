// SPDX-License-Identifier: MIT
// jollyrow-bench [--json FILE] [--rows N] [--rounds N] [--database FILE] [--tiny]
//                [--only loading|sorting|painting|faces|columns|rules|groups|editing|frames|objects|server]
// The ratio tables of docs/bench.md. A database that `jollyrow demo-data` made before saves making one.
#include "bench/measure.h"

#include <fmt/format.h>

#include <QApplication>
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

int main(int argc, char** argv) {
    using namespace jollyrow;
    using namespace jollyrow::bench;
    QApplication application(argc, argv);
    applyLook(application, Theme::Light);
    const QStringList arguments = QApplication::arguments();
    Setting setting;
    if (arguments.contains("--tiny")) setting = {3000, 1, {}};
    if (const auto at = arguments.indexOf("--rounds"); at > 0) setting.rounds = arguments.value(at + 1).toInt();
    if (const auto at = arguments.indexOf("--rows"); at > 0) setting.rows = arguments.value(at + 1).toLongLong();
    QTemporaryDir folder;
    const auto databaseAt = arguments.indexOf("--database");
    setting.database =
        (databaseAt > 0 ? arguments.value(databaseAt + 1) : folder.filePath("boatyard.db")).toStdString();
    if (databaseAt < 0) fmt::print(stderr, "making a boatyard of {} jobs\n", setting.rows);
    if (auto made = databaseAt > 0 ? Result<void>() : demo::makeBoatyard(setting.database, {setting.rows, 1}, {});
        !made) {
        fmt::print(stderr, "{}\n", made.error().message);
        return 1;
    }
    std::vector<Figure> figures;
    const auto onlyAt = arguments.indexOf("--only");
    const QString only = onlyAt > 0 ? arguments.value(onlyAt + 1) : QString();
    constexpr std::pair<const char*, std::vector<Figure> (*)(const Setting&)> kParts[] = {
        {"loading", benchLoading},    {"sorting", benchSorting}, {"painting", benchPainting}, {"faces", benchFaces},
        {"columns", benchColumns},    {"rules", benchRules},     {"groups", benchGroups},     {"editing", benchEditing},
        {"frames", benchGroupFrames}, {"objects", benchObjects}, {"server", benchServer}};
    for (const auto& [name, run] : kParts) {
        if (!only.isEmpty() && only != QLatin1String(name)) continue;
        const std::vector<Figure> part = run(setting);
        figures.insert(figures.end(), part.begin(), part.end());
    }
    fmt::print("{:<52} {:>8} {:>10} {:>10}  {}\n", "what", "ratio", "ours ms", "theirs ms", "against; aim");
    nlohmann::ordered_json json = nlohmann::ordered_json::array();
    for (const Figure& f : figures) {
        fmt::print("{:<52} {:>8.3f} {:>10.2f} {:>10.2f}  {}; {}\n", f.name, f.ratio, f.oursMs, f.theirsMs, f.against,
                   f.wanted);
        json.push_back({{"name", f.name},
                        {"ratio", f.ratio},
                        {"ours_ms", f.oursMs},
                        {"theirs_ms", f.theirsMs},
                        {"against", f.against}});
    }
    if (const auto at = arguments.indexOf("--json"); at > 0)
        std::ofstream(arguments.value(at + 1).toStdString()) << json.dump(2) << "\n";
    return 0;
}
