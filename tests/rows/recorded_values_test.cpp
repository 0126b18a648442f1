// SPDX-License-Identifier: MIT
// What cells held before, against a plain map: noted, taken back, moved with their records, bounded.
#include <QtTest>

#include <map>
#include <random>

#include "core/rows/recorded_values.h"

using namespace jollyrow;

class RecordedValuesTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void itIsAPlainMap() {
        std::mt19937 random(12);
        RecordedValues values;
        std::map<Edits::Place, std::vector<double>> model;
        for (int turn = 0; turn < 20'000; ++turn) {
            const Edits::Place place{static_cast<SourceRow>(random() % 40), static_cast<FieldIndex>(random() % 3)};
            const double number = static_cast<double>(random() % 4);
            auto& known = model[place];
            switch (random() % 8) {
                case 0: {  // records move; some go
                    const std::uint32_t by = random() % 40;
                    const auto now = [by](Edits::Place at) -> std::optional<Edits::Place> {
                        if (raw(at.first) % 17 == 3) return std::nullopt;
                        return Edits::Place{static_cast<SourceRow>((raw(at.first) + by) % 40), at.second};
                    };
                    values.move(now);
                    std::map<Edits::Place, std::vector<double>> moved;
                    for (auto& [at, list] : model)
                        if (const auto to = now(at)) moved[*to] = std::move(list);
                    model = std::move(moved);
                    break;
                }
                case 1:
                case 2: {
                    values.takeBack(place.first, place.second, 9, number);
                    if (!known.empty() && known.back() == number)
                        known.pop_back();
                    else
                        known.push_back(9);
                    break;
                }
                default: values.note(place.first, place.second, number); known.push_back(number);
            }
            for (auto& [at, list] : model)
                if (list.size() > RecordedValues::kMostEach) list.erase(list.begin());
            if (turn % 50 == 0)
                for (const auto& [at, list] : model) QCOMPARE(values.before(at.first, at.second), list);
        }
        values.clear();
        QCOMPARE(values.cells(), std::size_t{0});
    }

    /// The ones that changed longest ago go, and only when there are too many.
    void itIsBounded() {
        RecordedValues values;
        for (std::uint32_t i = 0; i < RecordedValues::kMostCells; ++i) values.note(SourceRow{i}, FieldIndex{}, i);
        QCOMPARE(values.cells(), RecordedValues::kMostCells);
        values.note(SourceRow{0}, FieldIndex{}, 1);  // now the newest
        values.note(SourceRow{1'000'000}, FieldIndex{}, 7);
        QVERIFY(values.cells() <= RecordedValues::kMostCells && values.cells() > RecordedValues::kMostCells / 3);
        QCOMPARE(values.before(SourceRow{0}, FieldIndex{}).size(), std::size_t{2});
        QCOMPARE(values.before(SourceRow{1'000'000}, FieldIndex{}).size(), std::size_t{1});
        QVERIFY(values.before(SourceRow{5}, FieldIndex{}).empty());
    }
};

QTEST_GUILESS_MAIN(RecordedValuesTest)
#include "recorded_values_test.moc"
