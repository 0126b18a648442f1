// SPDX-License-Identifier: MIT
// Edits against a plain map: random edits on maps that are kept, so that what shares a part with what was changed is
// seen to have stayed as it was.
#include <QtTest>

#include <map>
#include <random>
#include <set>

#include "core/columns/edits.h"

using namespace jollyrow;

namespace {

using Model = std::map<Edits::Place, std::pair<std::int64_t, EditState>>;

/// Rows close together, far apart, and at the ends of their range.
SourceRow anyRow(std::mt19937& random) {
    switch (random() % 4) {
        case 0: return static_cast<SourceRow>(random() % 40);
        case 1: return static_cast<SourceRow>(random());
        case 2: return static_cast<SourceRow>(0xFFFF'FFFEU - random() % 3);
        default: return static_cast<SourceRow>(1U << random() % 32);
    }
}

QString differing(const Edits& edits, const Model& model) {
    auto at = model.begin();
    QString wrong;
    std::map<EditState, std::size_t> states;
    edits.forEach([&](Edits::Place place, const CellEdit& edit) {
        if (!wrong.isEmpty()) return;
        if (at == model.end() || at->first != place)
            wrong = "another cell, or out of order";
        else if (!(edit.value == Value(at->second.first)) || edit.state != at->second.second)
            wrong = "another value";
        ++states[edit.state];
        if (wrong.isEmpty()) ++at;
    });
    if (wrong.isEmpty() && at != model.end()) wrong = "a cell is missing";
    if (edits.empty() != model.empty()) wrong = "empty or not";
    for (const EditState state : {EditState::Saving, EditState::Saved, EditState::Refused})
        if (edits.count(state) != states[state]) wrong = "another count";
    for (std::uint32_t field = 0; field < 6; ++field) {
        const bool touched =
            std::any_of(model.begin(), model.end(), [&](const auto& cell) { return raw(cell.first.second) == field; });
        if (edits.touches(static_cast<FieldIndex>(field)) != touched) wrong = "touches";
    }
    return wrong;
}

}  // namespace

class EditsTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void aWalkOverKeptEditsIsTheMaps() {
        for (unsigned seed = 0; seed < 60; ++seed) {
            std::mt19937 random(seed);
            // Each turn goes on from any of those before.
            std::vector<std::pair<std::shared_ptr<const Edits>, Model>> kept = {{std::make_shared<Edits>(), {}}};
            for (int turn = 0; turn < 120; ++turn) {
                auto [edits, model] = kept[random() % kept.size()];
                const bool known = random() % 2 && !model.empty();
                auto place = Edits::Place{anyRow(random), static_cast<FieldIndex>(random() % 5)};
                if (known) place = std::next(model.begin(), static_cast<long>(random() % model.size()))->first;
                if (random() % 3 == 0) {
                    edits = edits->without(place.first, place.second);
                    model.erase(place);
                } else {
                    const auto state = static_cast<EditState>(random() % kEditStates);
                    const std::int64_t value = turn;
                    edits = edits->with(place.first, place.second, {Value(value), Value(Empty{}), state, {}});
                    model[place] = {value, state};
                }
                const CellEdit* found = edits->find(place.first, place.second);
                QCOMPARE(found != nullptr, model.contains(place));
                kept.emplace_back(edits, model);
            }
            for (const auto& [edits, model] : kept) {
                const QString wrong = differing(*edits, model);
                QVERIFY2(wrong.isEmpty(), qPrintable(QString("seed %1: %2").arg(seed).arg(wrong)));
            }
        }
    }

    void theDifferenceIsWhatDiffers() {
        for (unsigned seed = 0; seed < 200; ++seed) {
            std::mt19937 random(seed);
            Edits a;
            for (int i = 0; i < 30; ++i)
                a.set(anyRow(random), FieldIndex{0}, {Value(std::int64_t{i}), Empty{}, EditState::Saving, {}});
            auto b = std::make_shared<const Edits>(a);
            std::set<SourceRow> changed;
            for (unsigned i = random() % 6; i > 0; --i) {
                const SourceRow row = anyRow(random);
                if (random() % 3 == 0) {
                    if (b->record(row)) changed.insert(row);
                    b = b->without(row, FieldIndex{0});
                } else {
                    changed.insert(row);
                    b = b->with(row, FieldIndex{0}, {Value(std::int64_t{1000 + i}), Empty{}, EditState::Saving, {}});
                }
            }
            std::set<SourceRow> told;
            Edits::forEachDifference(a, *b, [&](std::uint32_t row, const RecordEdit* here, const RecordEdit* there) {
                QCOMPARE(here, a.record(static_cast<SourceRow>(row)));
                QCOMPARE(there, b->record(static_cast<SourceRow>(row)));
                told.insert(static_cast<SourceRow>(row));
            });
            // A record that was put in and taken out again may be told, without any edit on either side.
            for (const SourceRow row : changed)
                if (a.record(row) || b->record(row)) QVERIFY(told.contains(row));
            for (const SourceRow row : told) QVERIFY(changed.contains(row));
        }
    }

    void oneRecordAloneHasItsOwnAndNoOthers() {
        std::mt19937 random(3);
        Edits all;
        for (int i = 0; i < 400; ++i)
            all.set(static_cast<SourceRow>(random() % 50), static_cast<FieldIndex>(random() % 4),
                    {Value(std::int64_t{i}), Empty{}, EditState::Saving, {}});
        for (std::uint32_t row = 0; row < 60; ++row) {
            const auto one = all.of(static_cast<SourceRow>(row));
            for (const auto& [place, edit] : one->cells()) {
                QCOMPARE(raw(place.first), row);
                QVERIFY(edit.value == all.find(place.first, place.second)->value);
            }
            const RecordEdit* whole = all.record(static_cast<SourceRow>(row));
            QCOMPARE(one->cells().size(), whole ? whole->cells().size() : 0);
        }
    }

    void manyEditsCostAStepEach() {
        // Each keeps the one before: a copy of the whole map a step would take minutes and gigabytes.
        std::vector<std::shared_ptr<const Edits>> kept = {std::make_shared<Edits>()};
        for (std::uint32_t row = 0; row < 100'000; ++row)
            kept.push_back(kept.back()->with(static_cast<SourceRow>(row * 7), FieldIndex{1},
                                             {Value(true), Empty{}, EditState::Saving, {}}));
        for (std::size_t n = 0; n < kept.size(); n += 9999) QCOMPARE(kept[n]->count(EditState::Saving), n);
    }
};

QTEST_APPLESS_MAIN(EditsTest)
#include "edits_test.moc"
