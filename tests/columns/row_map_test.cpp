// SPDX-License-Identifier: MIT
// RowMap: random work on many maps that share what they have, each against a plain map of its own: what one changes in
// place no other sees.
#include <QtTest>

#include <map>
#include <random>
#include <string>
#include <thread>
#include <vector>

#include "core/base/row_map.h"
#include "tests/turns.h"

using namespace jollyrow;

namespace {

using Map = RowMap<std::string>;
using Model = std::map<std::uint32_t, std::string>;

Model modelOf(const Map& map) {
    Model all;
    map.forEach([&](std::uint32_t row, const std::string& value) { all.emplace(row, value); });
    return all;
}

}  // namespace

class RowMapTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void eachMapKeepsItsOwn() {
        std::mt19937 random(17);
        std::vector<std::pair<Map, Model>> all(1);
        int inPlace = 0;
        for (int turn = 0; turn < test::turns(40'000); ++turn) {
            auto& [map, model] = all[random() % all.size()];
            // Rows that share nodes, and rows far away.
            const std::uint32_t row = random() % 3 ? random() % 70 : random() % 5 ? random() : 0xffff'ffffU;
            const std::string value = std::to_string(turn);
            switch (random() % 8) {
                case 0: map = map.with(row, value), model[row] = value; break;
                case 1: map = map.without(row), model.erase(row); break;
                case 2:
                case 3:
                case 4: map.put(row, value), model[row] = value, ++inPlace; break;
                case 5: map.take(row), model.erase(row); break;
                case 6:
                    if (all.size() < 12) {
                        auto copy = all[random() % all.size()];
                        all.push_back(std::move(copy));
                    } else {
                        all[random() % all.size()] = all[random() % all.size()];
                    }
                    break;
                default: {
                    Map moved = std::move(map);
                    QVERIFY(map.empty() && !map.find(row));
                    map = std::move(moved);
                }
            }
            if (turn % 50 != 0) continue;
            for (const auto& [one, its] : all) {
                QCOMPARE(one.size(), its.size());
                QVERIFY(modelOf(one) == its);
                const auto known = its.find(row);
                const std::string* found = one.find(row);
                QVERIFY(found ? known != its.end() && *found == known->second : known == its.end());
            }
            const auto &a = all.front(), &b = all.back();
            Model differing;
            Map::forEachDifference(a.first, b.first,
                                   [&](std::uint32_t at, const std::string*, const std::string* there) {
                                       differing.emplace(at, there ? *there : "gone");
                                   });
            for (const auto& [at, text] : a.second)
                if (const auto other = b.second.find(at); other == b.second.end() || other->second != text)
                    QVERIFY(differing.contains(at));
            for (const auto& [at, text] : b.second)
                if (!a.second.contains(at)) QVERIFY(differing.contains(at));
        }
        QVERIFY(inPlace > 100);
    }

    /// Others read what was handed to them while its maker goes on.
    void othersReadMeanwhile() {
        Map map;
        for (std::uint32_t row = 0; row < 5000; ++row) map.put(row * 3, "first");
        std::vector<std::thread> readers;
        std::atomic<int> wrong = 0;
        for (int i = 0; i < 3; ++i)
            readers.emplace_back([&wrong, held = map] {
                for (int round = 0; round < 5; ++round) {
                    const Map again = held;  // copies of one map by several threads
                    std::size_t count = 0;
                    again.forEach([&](std::uint32_t, const std::string& value) { count += value == "first" ? 1 : 0; });
                    if (count != 5000) ++wrong;
                }
            });
        for (std::uint32_t row = 0; row < 5000; ++row) map.put(row * 3, "second");
        for (std::thread& reader : readers) reader.join();
        QCOMPARE(wrong.load(), 0);
        QCOMPARE(*map.find(0), std::string("second"));
    }
};

QTEST_GUILESS_MAIN(RowMapTest)
#include "row_map_test.moc"
