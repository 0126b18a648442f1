// SPDX-License-Identifier: MIT
// What a design file says beyond this version comes back when it is written: unknown keys put at random into every
// object of a full design, at any depth. And what a file has too much of, or wrong, is said.
#include <QtTest>

#include <nlohmann/json.hpp>
#include <random>

#include "core/design/design_file.h"

using namespace jollyrow;
using Json = nlohmann::ordered_json;

namespace {

constexpr const char* kFull = R"JSON({
  "jollyrow": 1, "title": "Full", "locale": "de-DE",
  "source": {"kind": "sqlite", "path": "yard.db", "table": "jobs", "query": "SELECT 1", "zone": "Europe/Berlin",
             "readAs": {"due": {"as": "pattern", "pattern": "dd.MM.yyyy"}, "paid": {"as": "words", "yes": "J", "no": "N"},
                        "rate": {"as": "number", "decimalSign": ","}, "begun": {"as": "seconds"}}},
  "grid": {"pinned": 1, "stripes": true, "lines": true, "rowHeight": 26, "pinnedRecords": [{"key": ["7"], "edge": "top"}]},
  "sort": [{"field": "number", "direction": "descending", "empties": "last"}],
  "filter": [{"rule": "hours > 2", "field": "hours", "entry": "> 2"}],
  "sortRules": [{"name": "by day", "keys": [{"rule": "EXTRACT(DAY FROM due)", "direction": "ascending", "empties": "first"}]}],
  "groups": [{"field": "status", "direction": "ascending", "empties": "last", "groupBy": "value", "footer": true}],
  "summaries": [{"name": "total", "column": "hours", "show": "sum", "format": {"pattern": "0.0"}}],
  "operators": [{"name": "is_big", "title": "is big", "rule": "value > 10", "types": ["decimal"]}],
  "parameters": [{"name": "least", "heading": "Least", "type": "decimal", "value": "2"}],
  "faces": [{"name": "f", "root": {"kind": "row", "parts": [{"kind": "mark", "rules": [{"where": "hours > 1", "shape": "tick"}], "width": {"mode": "fixed", "pixels": 12}},
             {"kind": "column", "parts": [{"kind": "text", "text": "{number}", "format": {"pattern": "0"}}, {"kind": "bar", "bar": {"shares": true}}, {"kind": "picture", "picture": {"fills": true}}, {"kind": "trend", "trend": {"look": "area", "last": 9}}]}]}}],
  "looks": [{"name": "Own", "base": "slate"}],
  "banners": [{"where": "hours > 9", "caption": "{number}", "heads": true}],
  "styles": [{"name": "s", "where": "hours > 1", "ink": "teal", "columns": ["hours"], "icons": [{"shape": "ring"}, {"shape": "disc"}]}],
  "tiers": [{"name": "Work", "heading": "Work"}],
  "columns": [{"field": "number", "type": "integer", "heading": "No.", "shown": true, "width": {"mode": "fixed", "pixels": 60, "weight": 1.0, "minimum": 32, "maximum": 0}},
              {"field": "hours", "type": "decimal", "heading": "Hours", "tier": "Work", "shown": true,
               "width": {"mode": "share", "pixels": 60, "weight": 2.0, "minimum": 32, "maximum": 0}, "format": {"style": "pattern", "pattern": "0.00"}}]
})JSON";

/// The ways to all objects of the document.
void collect(const Json& at, const std::string& path, std::vector<std::string>& into) {
    if (at.is_object()) into.push_back(path);
    if (at.is_structured())
        for (const auto& [key, child] : at.items()) collect(child, path + "/" + key, into);
}

}  // namespace

class UnknownKeysTest : public QObject {
    Q_OBJECT
  private slots:
    void everyObjectKeepsWhatItDoesNotKnow() {
        std::mt19937 random(5);
        for (int round = 0; round < 300; ++round) {
            Json file = Json::parse(kFull);
            std::vector<std::string> objects;
            collect(file, "", objects);
            std::map<std::string, Json> added;
            for (const std::string& path : objects) {
                if (random() % 3 != 0) continue;
                const std::string key = "x_" + std::to_string(random() % 1000);
                const Json value = random() % 2 == 0 ? Json(random() % 100) : Json{{"deep", {1, "two", nullptr}}};
                file[Json::json_pointer(path)][key] = value;
                added[path + "/" + key] = value;
            }
            const auto read = designFromJson(file.dump());
            QVERIFY2(read.ok(), read.ok() ? "" : read.error().message.c_str());
            const Json back = Json::parse(toJson(read->design));
            for (const auto& [path, value] : added) {
                const Json::json_pointer at(path);
                QVERIFY2(back.contains(at), path.c_str());
                QVERIFY2(back[at] == value, path.c_str());
            }
            std::size_t said = 0;
            for (const Finding& finding : read->findings) said += finding.where.find("x_") != std::string::npos ? 1 : 0;
            QCOMPARE(said, added.size());
            // And once more: nothing is added or lost on the way.
            const auto again = designFromJson(toJson(read->design));
            QVERIFY(again->design == read->design);
        }
    }

    void theFullDesignHasEveryKindOfObject() {
        Json file = Json::parse(kFull);
        std::vector<std::string> objects;
        collect(file, "", objects);
        QCOMPARE(objects.size(), std::size_t{43});
        QVERIFY(designFromJson(kFull)->findings.empty());
    }

    void wrongSettingsAreSaid_data() {
        QTest::addColumn<QString>("path");
        QTest::addColumn<QString>("value");
        QTest::addColumn<QString>("where");
        QTest::newRow("kind of source") << "/source/kind"
                                        << "\"carrier pigeon\""
                                        << "source/kind";
        QTest::newRow("locale") << "/locale"
                                << "\"nonsense-language\""
                                << "locale";
        QTest::newRow("locale of no language") << "/locale"
                                               << "\"qq-QQ\""
                                               << "locale";
        QTest::newRow("parameter's type") << "/parameters/0/type"
                                          << "\"money\""
                                          << "parameters/0/type";
        QTest::newRow("column's type") << "/columns/0/type"
                                       << "\"money\""
                                       << "columns/0/type";
        QTest::newRow("operator's types") << "/operators/0/types/0"
                                          << "\"money\""
                                          << "operators/0/types";
        QTest::newRow("two summaries of one name") << "/summaries/1"
                                                   << R"({"name": "total", "column": "hours", "show": "mean"})"
                                                   << "summaries/1/name";
    }
    void wrongSettingsAreSaid() {
        QFETCH(QString, path);
        QFETCH(QString, value);
        QFETCH(QString, where);
        Json file = Json::parse(kFull);
        file[Json::json_pointer(path.toStdString())] = Json::parse(value.toStdString());
        const auto read = designFromJson(file.dump());
        QVERIFY(read.ok());
        QVERIFY(std::any_of(read->findings.begin(), read->findings.end(), [&](const Finding& f) {
            return f.where == where.toStdString() && f.severity != Severity::Note;
        }));
    }

    void mistakesAreNamed_data() {
        QTest::addColumn<QString>("text");
        QTest::addColumn<QString>("said");
        QTest::newRow("comma before the end") << "{\"jollyrow\": 1,}"
                                              << "a comma too many at line 1, column 14";
        QTest::newRow("comma in a list") << "{\"jollyrow\": 1, \"sort\": [1,\n]}"
                                         << "a comma too many";
        QTest::newRow("broken off") << "{\"jollyrow\": 1, \"sort\": ["
                                    << "breaks off";
        QTest::newRow("not JSON") << "{\"jollyrow\": one}"
                                  << "not JSON at line 1";
        QTest::newRow("too large a number") << "{\"jollyrow\": 1, \"x\": 1e99999}"
                                            << "a number in it is too large";
        QTest::newRow("nested") << "{\"a\":" + QString(100, '[') << "nested deeper";
    }
    void mistakesAreNamed() {
        QFETCH(QString, text);
        QFETCH(QString, said);
        const auto read = designFromJson(text.toStdString());
        QVERIFY(!read.ok());
        QVERIFY2(read.error().message.find(said.toStdString()) != std::string::npos, read.error().message.c_str());
        QVERIFY(read.error().message.find("exception") == std::string::npos);
    }

    void muchOfItIsReadOrRefusedSoon() {
        QElapsedTimer timer;
        timer.start();
        std::string keys = "{\"jollyrow\": 1", tiers = "{\"jollyrow\": 1, \"tiers\": [";
        for (int i = 0; i < 100'000; ++i) keys += ", \"k" + std::to_string(i) + "\": 1";
        const auto many = designFromJson(keys + "}");
        QVERIFY(!many.ok() && many.error().message.find("10000 keys") != std::string::npos);
        for (int i = 0; i < 5000; ++i)
            tiers += (i ? ", " : "") + std::string("{\"name\": \"t") + std::to_string(i) + "\", \"parent\": \"t" +
                     std::to_string(i + 1) + "\"}";
        const auto chain = designFromJson(tiers + "]}");
        QVERIFY(chain.ok() && !chain->findings.empty());
        std::string computed = "{\"jollyrow\": 1, \"columns\": [";
        for (int i = 0; i < 20'000; ++i)
            computed += (i ? ", " : "") + std::string("{\"field\": \"c") + std::to_string(i) + "\", \"rule\": \"" +
                        (i ? "c" + std::to_string(i - 1) : "1") + " + 1\"}";
        const auto columns = designFromJson(computed + "]}");
        QVERIFY(!columns.ok() && columns.error().message.find("20000 columns; 10000") != std::string::npos);
        QVERIFY2(timer.elapsed() < 9000, qPrintable(QString::number(timer.elapsed())));
    }
};

QTEST_GUILESS_MAIN(UnknownKeysTest)
#include "unknown_keys_test.moc"
