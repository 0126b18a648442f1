// SPDX-License-Identifier: MIT
// Records that come and go one by one: lines, groups and figures that follow them equal those of a Rowline that is made
// anew, over random insertions, deletions, edits, saves, filters, sorts and groups.
#include <QtTest>

#include <map>
#include <random>

#include "core/columns/room.h"
#include "core/rows/rowline.h"
#include "core/rules/sort_list.h"
#include "tests/rules/rule_records.h"
#include "tests/turns.h"

using namespace jollyrow;

namespace {

FilterTerm conditionOf(const std::string& rule, const TableSchema& schema) {
    BindOptions options;
    options.expected = RuleKind::Boolean;
    auto program = compileRule(rule, schema, {}, options);
    if (!program) qFatal("%s", program.error().message.c_str());
    return {rule, *program};
}

}  // namespace

class ComingsTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void whatFollowsEqualsWhatIsMadeAnew_data() {
        QTest::addColumn<QString>("groups");
        QTest::addColumn<QString>("sort");
        QTest::addColumn<bool>("first");
        QTest::newRow("groups of texts") << "s"
                                         << "" << false;
        QTest::newRow("two levels, sorted") << "b, s"
                                            << "d DESC" << false;
        QTest::newRow("drafts first") << "s"
                                      << "i" << true;
        QTest::newRow("figures alone") << ""
                                       << "s" << false;
        QTest::newRow("figures alone, drafts first") << ""
                                                     << "" << true;
        QTest::newRow("groups by a rule") << "EXTRACT(MONTH FROM dt)"
                                          << "s" << false;
    }
    void whatFollowsEqualsWhatIsMadeAnew() {
        QFETCH(QString, groups);
        QFETCH(QString, sort);
        QFETCH(bool, first);
        const auto table = withRoom(*test::tableOf(test::hardFields(), 20), 60);
        const TableSchema& schema = table->schema;
        const auto field = [&](const char* name) { return *schema.find(name); };
        const std::vector<Value> texts = {std::string("Wren"), std::string("Zebra"), std::string("wren"), Empty{}};
        const std::vector<std::string> conditions = {"d > 1", "LOWER(s) LIKE '%w%' OR s IS NULL", "i IS NULL OR i > 0"};
        std::mt19937 random(static_cast<unsigned>(groups.size() + sort.size()) + (first ? 100U : 7U));
        RowlineInput in;
        in.table = table;
        in.edits = std::make_shared<const Edits>();
        in.orderEdits = in.edits;
        in.draftsFirst = first;
        in.sort = *parseSortList(sort.toStdString(), schema);
        const auto levels = parseSortList(groups.toStdString(), schema);
        const auto figures = parseSummaryList(
            "COUNT(*), SUM(d), AVG(i), MIN(d), MAX(i), COUNT(s), COUNT(DISTINCT s), SUM(d) / COUNT(*)", schema);
        QVERIFY(levels.ok() && figures.ok());
        in.groups = groupTermsOf(*levels);
        in.summaries = summarySpecsOf(*figures);
        Rowline kept;
        int inserted = 0, deleted = 0, saved = 0;
        for (int turn = 0; turn < test::turns(400); ++turn) {
            auto next = std::make_shared<Edits>(*in.edits);
            const auto row = static_cast<SourceRow>(random() % table->loaded());
            const auto change = random() % 10;
            if (change < 3) {
                if (const auto free = freeRow(*table, *in.edits)) {
                    RecordEdit made;
                    made.setFate(RecordFate{RecordChange::Insert, EditState::Draft, {}, {}, 0});
                    if (random() % 4 != 0) {
                        made.set(field("s"), {texts[random() % 3], Empty{}, EditState::Draft, {}});
                        made.set(field("b"), {Value(random() % 2 == 0), Empty{}, EditState::Draft, {}});
                        made.set(
                            field("d"),
                            {Decimal{static_cast<std::int64_t>(random() % 900), 2}, Empty{}, EditState::Draft, {}});
                    }
                    RecordEdit isThere;
                    isThere.setFate(*made.fate());
                    in.orderEdits = in.orderEdits->withRecord(*free, isThere);
                    next->setRecord(*free, made);
                    ++inserted;
                }
            } else if (change < 5) {
                // To be deleted, deleted, or brought back.
                const RecordEdit* known = next->record(row);
                RecordEdit gone = known ? *known : RecordEdit();
                const bool isLeaving = known && known->fate() && known->fate()->isLeaving();
                const EditState states[] = {EditState::Draft, EditState::Saving, EditState::Refused, EditState::Saved};
                const EditState state = states[isLeaving ? 3 : random() % 4];
                gone.setFate(RecordFate{RecordChange::Delete, state, {}, {}, 0});
                if (isLeaving && random() % 2 == 0) gone.setFate(std::nullopt);
                next->setRecord(row, gone);
                ++deleted;
            } else if (change < 6) {  // a draft is saved, or let go
                std::vector<SourceRow> drafts;
                in.edits->forEachRecord([&](SourceRow at, const RecordEdit& record) {
                    if (record.change() == RecordChange::Insert && record.fate()->state == EditState::Draft)
                        drafts.push_back(at);
                });
                if (!drafts.empty()) {
                    const SourceRow at = drafts[random() % drafts.size()];
                    RecordEdit record = *in.edits->record(at);
                    if (random() % 3 == 0) {
                        next->setRecord(at, {});
                    } else {
                        record.setFate(
                            RecordFate{RecordChange::Insert, EditState::Saved, {}, {Value(std::int64_t{raw(at)})}, 0});
                        next->setRecord(at, record);
                        ++saved;
                    }
                }
            } else if (change < 9) {
                if (!next->fate(row)) {
                    if (random() % 2 == 0)
                        next->set(row, field("s"), {texts[random() % texts.size()], Empty{}, EditState::Saved, {}});
                    else
                        next->set(
                            row, field("d"),
                            {Decimal{static_cast<std::int64_t>(random() % 900), 2}, Empty{}, EditState::Saved, {}});
                }
            } else {
                in.filter.clear();
                for (const std::string& rule : conditions)
                    if (random() % 3 == 0) in.filter.push_back(conditionOf(rule, schema));
            }
            in.edits = next;
            if (random() % 12 == 0) in.orderEdits = in.edits;  // put in order
            Rowline fresh;
            const auto a = kept.run(in, Cancel()), b = fresh.run(in, Cancel());
            QVERIFY(a.ok() && b.ok());
            compare(**a, **b, turn);
            if (QTest::currentTestFailed()) return;
            compareWithoutLeaving(in, **a, turn);
            if (QTest::currentTestFailed()) return;
        }
        // A walk that is cut short may miss a kind.
        if (test::turns(400) == 400) QVERIFY(inserted > 40 && deleted > 40 && saved > 5);
        QVERIFY(inserted > 0 && deleted > 0);
    }

    void whatIsToBeDeletedHasAPlaceAndCountsInNothing() {
        const auto table = test::tableOf(test::hardFields(), 2);
        const TableSchema& schema = table->schema;
        EvaluationInput in;
        in.table = table;
        auto edits = std::make_shared<Edits>();
        const std::size_t leaving = table->rows / 2;
        RecordEdit gone;
        gone.setFate(RecordFate{RecordChange::Delete, EditState::Refused, {}, {}, 0});
        edits->setRecord(static_cast<SourceRow>(leaving), gone);
        EvaluationInput without = in;
        in.edits = edits;
        auto saved = std::make_shared<Edits>();
        gone.setFate(RecordFate{RecordChange::Delete, EditState::Saved, {}, {}, 0});
        saved->setRecord(static_cast<SourceRow>(leaving), gone);
        without.edits = saved;
        for (const char* rule : {"COUNT(*) OVER (PARTITION BY b)", "SUM(e) OVER ()", "MAX(d) OVER (PARTITION BY s)",
                                 "ROW_NUMBER() OVER (ORDER BY d, i)", "RANK() OVER (PARTITION BY b ORDER BY s)",
                                 "DENSE_RANK() OVER (ORDER BY b)", "PERCENT_RANK() OVER (ORDER BY d)"}) {
            const auto program = compileRule(rule, schema, {});
            if (!program) continue;  // not every rank is there
            const auto a = Evaluation::prepare(*program, in, Cancel()),
                       b = Evaluation::prepare(*program, without, Cancel());
            QVERIFY(a.ok() && b.ok());
            Runner ours(*a), theirs(*b);
            for (std::size_t row = 0; row < table->rows; ++row) {
                const EvaluatedCell x = cellOf(ours.run(row, 1), 0), y = cellOf(theirs.run(row, 1), 0);
                if (row == leaving) {
                    QVERIFY2(!(x.value == RuleValue(std::int64_t{0})), rule);  // it has the place that it would have
                    continue;
                }
                QVERIFY2(x.state == y.state && x.value == y.value,
                         qPrintable(QString("%1, record %2").arg(rule).arg(row)));
            }
        }
    }

  private:
    /// Figures are those of the records that stay, as they will be when the deletions are saved.
    static void compareWithoutLeaving(const RowlineInput& given, const Snapshot& ours, int turn) {
        RowlineInput in = given;
        auto edits = std::make_shared<Edits>(*in.edits);
        for (const std::uint32_t row : given.edits->leaving()) {
            RecordEdit gone = *edits->record(static_cast<SourceRow>(row));
            gone.setFate(RecordFate{RecordChange::Delete, EditState::Saved, {}, {}, 0});
            edits->setRecord(static_cast<SourceRow>(row), gone);
        }
        in.edits = edits;
        Rowline fresh;
        const auto theirs = fresh.run(in, Cancel());
        QVERIFY(theirs.ok());
        const GroupTree &a = *ours.groups->tree, &b = *(*theirs)->groups->tree;
        std::map<std::uint64_t, std::size_t> places;
        for (std::size_t n = 0; n < b.nodes.size(); ++n) places[b.nodes[n].path] = n;
        for (std::size_t n = 0; n <= a.nodes.size(); ++n) {
            const bool all = n == a.nodes.size();
            const auto found = all ? places.end() : places.find(a.nodes[n].path);
            const auto place = all ? std::pair(true, b.nodes.size())
                                   : std::pair(found != places.end(), found == places.end() ? 0 : found->second);
            const std::int64_t records = all ? 0 : ours.groups->records(static_cast<std::uint32_t>(n));
            if (!all && place.first) QCOMPARE(records, b.nodes[place.second].count);
            if (!place.first) QCOMPARE(records, 0);
            for (std::size_t s = 0; s < ours.groups->figures.size(); ++s) {
                const EvaluatedCell x = ours.groups->figure(s, n);
                // A group of which nothing stays has counts of 0 and no other figures.
                const EvaluatedCell y = place.first ? (*theirs)->groups->figure(s, place.second) : x;
                if (!place.first) QVERIFY(x.state == CellState::Empty || x.value == RuleValue(std::int64_t{0}));
                QVERIFY2(x.state == y.state && x.value == y.value,
                         qPrintable(QString("turn %1, figure %2 of group %3").arg(turn).arg(s).arg(n)));
            }
        }
    }

    static void compare(const Snapshot& ours, const Snapshot& theirs, int turn) {
        QVERIFY2(ours.recordCount() == theirs.recordCount(), qPrintable(QString("turn %1").arg(turn)));
        for (std::int64_t i = 0; i < ours.recordCount(); ++i)
            QVERIFY2(ours.record(i) == theirs.record(i), qPrintable(QString("turn %1, record %2").arg(turn).arg(i)));
        const GroupTree &a = *ours.groups->tree, &b = *theirs.groups->tree;
        QCOMPARE(a.nodes.size(), b.nodes.size());
        for (std::size_t n = 0; n < a.nodes.size(); ++n) {
            const GroupNode &x = a.nodes[n], &y = b.nodes[n];
            QVERIFY2(x.first == y.first && x.count == y.count && x.path == y.path && x.parent == y.parent,
                     qPrintable(QString("turn %1, group %2: %3+%4 and %5+%6")
                                    .arg(turn)
                                    .arg(n)
                                    .arg(x.first)
                                    .arg(x.count)
                                    .arg(y.first)
                                    .arg(y.count)));
        }
        for (std::size_t s = 0; s < ours.groups->figures.size(); ++s)
            for (std::size_t n = 0; n <= a.nodes.size(); ++n) {
                const EvaluatedCell x = ours.groups->figure(s, n), y = theirs.groups->figure(s, n);
                QVERIFY2(x.state == y.state && x.value == y.value,
                         qPrintable(QString("turn %1, figure %2 of group %3").arg(turn).arg(s).arg(n)));
            }
    }
};

QTEST_GUILESS_MAIN(ComingsTest)
#include "comings_test.moc"
