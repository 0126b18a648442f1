// SPDX-License-Identifier: MIT
// Look files: read as they were written, nonsense said and left out, nothing of the file lost.
#include <QtTest>

#include <random>

#include "core/design/design_file.h"
#include "core/design/make_design.h"
#include "core/design/plan.h"

using namespace jollyrow;

class LookTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void aLookComesBackAsItWasWritten() {
        std::mt19937 random(3);
        QTemporaryDir folder;
        for (int round = 0; round < 200; ++round) {
            LookDesign look;
            look.name = "Åse \"" + std::to_string(random() % 50) + "\" \\";
            look.base = std::string(kReadyLooks[random() % kReadyLooks.size()]);
            for (auto* colours : {&look.light, &look.dark})
                for (const std::string_view name : kLookColours)
                    if (random() % 4 == 0) {
                        char text[8];
                        std::snprintf(text, sizeof text, "#%06x", static_cast<unsigned>(random() & 0xffffff));
                        colours->emplace(name, text);
                    }
            const std::string path = folder.filePath("a.jlook").toStdString();
            QVERIFY(writeLookFile(path, look).ok());
            const auto read = readLookFile(path);
            QVERIFY2(read.ok(), read ? "" : read.error().message.c_str());
            QVERIFY(read->findings.empty());
            QVERIFY(read->look == look);
            Design design;
            design.looks = {look};
            design.grid.look = look.name;
            design.grid.crossLight = round % 2 == 0;
            const auto again = designFromJson(toJson(design));
            QVERIFY(again && again->design.looks == design.looks && again->design.grid == design.grid);
        }
    }

    void nonsenseIsSaidAndLeftOut() {
        const std::string text =
            "{\"jollyrowLook\": 1, \"name\": \"Odd\", \"base\": \"unheard\", \"later\": [1], \"light\": {\"paper\": "
            "\"white\", \"ink\": 7, \"teal\": \"#12345\", \"blue\": \"#1e7f78\", \"papr\": \"#ffffff\"}}";
        const auto read = lookFromJson(text);
        QVERIFY(read.ok());
        QCOMPARE(read->look.base, std::string("yard"));
        QCOMPARE(read->look.light.size(), std::size_t{2});  // blue, and what is not known but kept
        QCOMPARE(read->look.light.at("blue"), std::string("#1e7f78"));
        QVERIFY(std::any_of(read->findings.begin(), read->findings.end(), [](const Finding& f) {
            return f.message.find("Did you mean paper?") != std::string::npos;
        }));
        for (const char* where : {"paper", "ink", "teal", "base"})
            QVERIFY2(std::any_of(read->findings.begin(), read->findings.end(),
                                 [&](const Finding& f) { return f.where.ends_with(where); }),
                     where);
        QVERIFY(toJson(read->look).find("\"later\"") != std::string::npos);
        QVERIFY(toJson(read->look).find("papr") != std::string::npos);
    }

    void whatIsNoLookIsRefused() {
        QTemporaryDir folder;
        for (const char* text :
             {"", "[]", "{}", "{\"jollyrow\": 1}", "{\"jollyrowLook\": 1}", "{\"jollyrowLook\": 2, \"name\": \"x\"}",
              "{\"jollyrowLook\": 1, \"name\": \"x\"", "\x01\xff"}) {
            const auto read = lookFromJson(text);
            QVERIFY2(!read, text);
            QVERIFY(!read.error().message.empty());
        }
        std::string deep = "{\"jollyrowLook\": 1, \"name\": \"x\", \"light\": ";
        for (int i = 0; i < 5000; ++i) deep += "[";
        (void)lookFromJson(deep);
        QVERIFY(!readLookFile(folder.path().toStdString()));
        QVERIFY(!readLookFile(folder.filePath("missing.jlook").toStdString()));
        QVERIFY(!writeLookFile(folder.filePath("no/folder.jlook").toStdString(), {"x"}));
        QFile large(folder.filePath("large.jlook"));
        QVERIFY(large.open(QIODevice::WriteOnly));
        large.write(QByteArray(2 << 20, ' '));
        large.close();
        QVERIFY(!readLookFile(large.fileName().toStdString()));
    }

    void looksOfADesignHaveNamesOfTheirOwn() {
        const auto read = designFromJson(
            R"JSON({"jollyrow": 1, "looks": [{"name": "A"}, {"name": "A"}, {"name": "slate"}, {}, 3]})JSON");
        QVERIFY(read.ok());
        QCOMPARE(read->design.looks.size(), std::size_t{1});
        QCOMPARE(std::count_if(read->findings.begin(), read->findings.end(),
                               [](const Finding& f) { return f.severity == Severity::Problem; }),
                 4);
        Design design = read->design;
        design.grid.look = "B";
        const ViewPlan plan = planOf(design, TableSchema{});
        QVERIFY(std::any_of(plan.findings.begin(), plan.findings.end(),
                            [](const Finding& f) { return f.where == "grid/look"; }));
        for (const char* known : {"A", "chart", ""}) {
            design.grid.look = known;
            for (const Finding& finding : planOf(design, TableSchema{}).findings) QVERIFY(finding.where != "grid/look");
        }
    }

    // What is left out of a long list is said, whatever list it is.
    void listsPastTheirLengthSaySo() {
        for (const auto& [key, entry] : {std::pair<const char*, const char*>{"looks", R"({"name": "L%1"})"},
                                         {"styles", R"({"where": "id = %1", "ink": "red"})"},
                                         {"banners", R"({"where": "id = %1"})"}}) {
            QStringList entries;
            for (int i = 0; i < 1300; ++i) entries << QString(entry).arg(i);
            const auto read =
                designFromJson(QString(R"({"jollyrow": 1, "%1": [%2]})").arg(key, entries.join(",")).toStdString());
            QVERIFY(read.ok());
            QVERIFY2(
                std::any_of(read->findings.begin(), read->findings.end(),
                            [](const Finding& f) { return f.message.find("has 1300 entries") != std::string::npos; }),
                key);
        }
    }
};

QTEST_GUILESS_MAIN(LookTest)
#include "look_test.moc"
