// SPDX-License-Identifier: MIT
// Random walks on a grid: typed edits, records made, deleted and taken back, filter entries, sorts, groups, selections,
// reloads, and another process that writes meanwhile. After each step SQLite is asked what must be shown: the same
// records in the same order, the same groups with the same numbers of records, the same values, and what was typed
// stored in the record it was typed on.
#include <QtTest>

#include <QLineEdit>

#include <map>
#include <random>

#include "core/design/cell_text.h"
#include "tests/grid/grid_fixture.h"

using namespace jollyrow;

namespace {

/// An entry of the filter row and what it means in SQL.
struct Entry {
    const char* field;
    const char* typed;
    const char* sql;
};
constexpr Entry kEntries[] = {
    {"hours", "> 20", "hours > 20"},
    {"hours", "2..8", "hours BETWEEN 2 AND 8"},
    {"hours", "not 5.5", "hours <> 5.5"},
    {"status", "= Done", "status = 'Done'"},
    {"status", "Booked, Done", "status IN ('Booked', 'Done')"},
    {"work", "*7", "work LIKE '%7'"},
    {"paid", "yes", "paid = 1"},
    {"notes", "empty", "notes IS NULL"},
    {"due", "> 2026-05-01", "due > '2026-05-01'"},
};
constexpr const char* kSorts[] = {"hours", "due", "status", "number", "paid"};
constexpr const char* kGroups[] = {"status", "paid"};

class Walk {
  public:
    /// The hours as bars over those shown, the due day as a composed face, a style by status.
    explicit Walk(unsigned seed) : random(seed) {
        BarDesign shown;
        shown.ends = BarEnds::Filtered;
        fixture.design.faces = {
            {"bar", face::bar({}, shown)},
            {"composed", face::row({face::text("{number}"), face::text("long").when("hours > 20")})}};
        fixture.design.column("hours")->face = "bar";
        fixture.design.column("due")->face = "composed";
        StyleDesign done;
        done.name = "Done";
        done.where = "status = 'Done'";
        done.columns = {"work"};
        done.ink = "teal";
        fixture.design.styles = {done};
    }

    std::vector<std::vector<std::string>> ask(const std::string& sql) const {
        std::vector<std::vector<std::string>> rows;
        sqlite3* db = nullptr;
        sqlite3_open(fixture.path.toLocal8Bit().constData(), &db);
        sqlite3_busy_timeout(db, 30'000);
        sqlite3_stmt* statement = nullptr;
        if (sqlite3_prepare_v2(db, sql.c_str(), -1, &statement, nullptr) != SQLITE_OK)
            qFatal("%s in %s", sqlite3_errmsg(db), sql.c_str());
        while (sqlite3_step(statement) == SQLITE_ROW) {
            auto& row = rows.emplace_back();
            for (int i = 0; i < sqlite3_column_count(statement); ++i) {
                const auto* text = reinterpret_cast<const char*>(sqlite3_column_text(statement, i));
                row.emplace_back(text ? text : "(none)");
            }
        }
        sqlite3_finalize(statement);
        sqlite3_close(db);
        return rows;
    }
    std::string where() const {
        std::string out;
        for (const auto& [field, sql] : filters) out += (out.empty() ? " WHERE " : " AND ") + sql;
        return out;
    }
    std::string orderBy() const {
        std::string out;
        const auto add = [&out](const std::string& field, bool down) {
            out += (out.empty() ? " ORDER BY " : ", ") + field + " IS NULL, " + field + (down ? " DESC" : "");
        };
        if (!group.empty()) add(group, false);
        for (const auto& [field, down] : sorts) add(field, down);
        return out + (out.empty() ? " ORDER BY number" : ", number");
    }

    /// Nothing is on its way any more.
    bool settled() {
        return QTest::qWaitFor([this] { return !grid().isLoading() && grid().records().unsaved() == 0; }, 10'000);
    }
    /// Empty when all is as SQLite has it; waits for what is being computed.
    QString wrong() {
        if (!settled()) return "it does not come to rest: " + grid().message();
        if (grid().session().view().orderIsStale()) grid().session().view().resort();
        QString differs;
        const bool same = QTest::qWaitFor([&] { return (differs = difference()).isEmpty(); }, 30'000);
        return same ? QString() : differs;
    }

    void filter() {
        const Entry& entry = kEntries[random() % std::size(kEntries)];
        const bool clears = random() % 2 && filters.contains(entry.field);
        if (!grid().filters().setEntry(entry.field, clears ? "" : entry.typed).ok()) qFatal("%s", entry.typed);
        filters.erase(entry.field);
        if (!clears) filters[entry.field] = entry.sql;
    }
    void sort() {
        sorts.clear();
        for (unsigned n = random() % 3; n > 0; --n) {
            const std::string field = kSorts[random() % std::size(kSorts)];
            sorts.emplace_back(field, random() % 2);
        }
        applySort();
    }
    void applySort() {
        std::vector<SortDesign> keys;
        for (const auto& [field, down] : sorts)
            keys.push_back({field, down ? Direction::Descending : Direction::Ascending, Empties::Last});
        grid().setSort(keys);
    }
    void regroup() {
        group.clear();
        std::vector<GroupDesign> levels;
        if (random() % 3) {
            group = kGroups[random() % std::size(kGroups)];
            levels.emplace_back().key.field = group;
        }
        grid().groups().set(levels);
    }
    void openSome() {
        for (int n = 0; n < 3 && grid().lineCount() > 0; ++n) {
            const std::int64_t line = anyLine();
            if (const auto at = grid().groups().at(line)) grid().groups().setOpen(line, !at->isOpen);
        }
    }
    /// A value typed into a cell in sight, as a person does.
    QString type() {
        const std::int64_t line = recordLine();
        if (line < 0) return {};
        const bool hours = random() % 2;
        const char* field = hours ? "hours" : "work";
        const QString typed = hours ? QString::number(static_cast<int>(random() % 80)) + ".25"
                                    : "typed " + QString::number(random() % 1000);
        grid().selection().showLine(line);
        const std::string key = grid().recordAt(line).text("number").toStdString();
        fixture.click(grid().places().cell(line, field).center());
        fixture.key(Qt::Key_F2);
        auto* entry = grid().viewport()->findChild<QLineEdit*>("cellEntry");
        if (!entry) return "no editor opens on " + QString(field);
        entry->selectAll();
        QTest::keyClicks(entry, typed);
        QTest::keyClick(entry, random() % 2 ? Qt::Key_Return : Qt::Key_Tab);
        ++edits;
        if (!settled()) return "not saved: " + grid().message();
        const auto stored = ask(std::string("SELECT ") + field + " FROM jobs WHERE number = " + key);
        const bool same = stored.size() == 1 &&
                          (hours ? std::stod(stored[0][0]) == typed.toDouble() : stored[0][0] == typed.toStdString());
        return same ? QString() : "what was typed on " + QString::fromStdString(key) + " is not stored there";
    }
    /// A record more, as the database then has it.
    QString insert() {
        const std::string name = "made " + std::to_string(random() % 100'000);
        std::map<QString, Value> values = {{"work", name}, {"status", std::string("Done")}, {"paid", Value(true)}};
        if (random() % 2) values["hours"] = Decimal{static_cast<std::int64_t>(random() % 6000), 2};
        const auto made = grid().records().insert(values);
        if (!made) return QString::fromStdString(made.error().message);
        ++inserts;
        grid().records().save(*made);
        if (!settled()) return "not saved: " + grid().message();
        return ask("SELECT 1 FROM jobs WHERE work = '" + name + "'").empty() ? "the new record is not stored"
                                                                             : QString();
    }
    QString remove() {
        const std::int64_t line = recordLine();
        if (line < 0) return {};
        const std::string key = grid().recordAt(line).text("number").toStdString();
        grid().records().remove({grid().recordAt(line)});
        ++removals;
        if (!settled()) return "not deleted: " + grid().message();
        return ask("SELECT 1 FROM jobs WHERE number = " + key).empty() ? QString() : "the record is there still";
    }
    /// What comes back stands at the end until all is read again.
    QString undo() {
        random() % 3 ? grid().records().undo() : grid().records().redo();
        if (!settled()) return "not undone: " + grid().message();
        return reload();
    }
    /// Another process writes, and all is read again; the current and the selected records stay what they are.
    QString reload() {
        const Record current = grid().selection().current();
        static constexpr const char* kWrites[] = {
            "UPDATE jobs SET hours = hours + 1 WHERE number % 7 = %1",
            "DELETE FROM jobs WHERE number % 23 = %1",
            ("INSERT INTO jobs SELECT number + 1000 + %1, vessel, work, status, due, hours, paid, notes FROM jobs "
             "WHERE number % 19 = %1 AND number < 200 ON CONFLICT DO NOTHING"),
            "UPDATE jobs SET status = 'In hand' WHERE number % 11 = %1",
        };
        const QString sql =
            QString(kWrites[random() % std::size(kWrites)]).replace("%1", QString::number(random() % 7));
        ask(sql.toStdString());
        QSignalSpy ended(&grid(), &Grid::loadEnded);
        grid().reload();
        if (!QTest::qWaitFor([&] { return !ended.isEmpty(); }, 10'000)) return "the reload does not end";
        if (!current.isValid()) return {};
        const std::string key = current.text("number").toStdString();
        const bool still =
            ask("SELECT 1 FROM jobs" + (where().empty() ? " WHERE " : where() + " AND ") + "number = " + key).size() ==
            1;
        const Record now = grid().selection().current();
        if (still && group.empty() && (!now.isValid() || now.text("number").toStdString() != key))
            return "the current record was " + QString::fromStdString(key);
        return {};
    }
    void wander() {
        if (grid().lineCount() == 0) return;
        grid().selection().setCurrentCell(anyLine(), static_cast<int>(random() % 3));
        for (int n = 0; n < 4; ++n)
            fixture.key(std::array{Qt::Key_Down, Qt::Key_Up, Qt::Key_PageDown, Qt::Key_End, Qt::Key_Left, Qt::Key_Right,
                                   Qt::Key_Space}[random() % 7],
                        std::array{Qt::NoModifier, Qt::ShiftModifier, Qt::ControlModifier}[random() % 3]);
        if (random() % 4 == 0) fixture.key(Qt::Key_A, Qt::ControlModifier);
        applySort();  // up from the first record the keys go into the headings, where Space sorts
    }
    Grid& grid() { return fixture.grid; }

    GridFixture fixture;
    std::mt19937 random;
    std::map<std::string, std::string> filters;
    std::vector<std::pair<std::string, bool>> sorts;
    std::string group;
    int edits = 0, inserts = 0, removals = 0;

  private:
    std::int64_t anyLine() {
        return static_cast<std::int64_t>(random() %
                                         static_cast<unsigned>(std::max<std::int64_t>(1, grid().lineCount())));
    }
    std::int64_t recordLine() {
        for (int tries = 0; tries < 20 && grid().lineCount() > 0; ++tries)
            if (const std::int64_t line = anyLine(); grid().recordAt(line).isValid()) return line;
        return -1;
    }
    /// Faces, their ends and styles are those of the records as SQLite has them.
    QString faceDifference(const std::vector<std::vector<std::string>>& wanted) {
        const Snapshot& shown = *grid().snapshot();
        const ViewPlan& plan = grid().session().plan();
        const auto column = [&](const char* field) -> const PlannedColumn& {
            return *std::find_if(plan.columns.begin(), plan.columns.end(),
                                 [&](const PlannedColumn& c) { return c.design.field == field; });
        };
        const auto most = ask("SELECT max(0, coalesce(max(hours), 0)) FROM jobs" + where());
        const Extent ends = shown.extentOf({{column("hours").field}, true});
        if (ends.low != 0 || ends.high != std::stod(most[0][0])) return QString("bars end at %1").arg(ends.high);
        CellReader due(shown, column("due"));
        StyleReader styles(shown, plan.styles);
        CellText cell;
        for (std::size_t place = 0; place < wanted.size(); ++place) {
            const SourceRow row = shown.record(static_cast<std::int64_t>(place));
            due.read(row, cell);
            const bool isLong = wanted[place][2] != "(none)" && std::stod(wanted[place][2]) > 20;
            if (cell.text != wanted[place][0] + (isLong ? " long" : ""))
                return QString("a face says %1").arg(cell.text.c_str());
            if ((styles.of(row, column("work").field).ink != nullptr) != (wanted[place][3] == "Done"))
                return QString("%1 is styled wrongly").arg(wanted[place][0].c_str());
        }
        return {};
    }
    QString difference() {
        const Snapshot& shown = *grid().snapshot();
        const auto wanted = ask("SELECT number, work, hours, status FROM jobs" + where() + orderBy());
        if (shown.recordCount() != static_cast<std::int64_t>(wanted.size()))
            return QString("%1 records instead of %2").arg(shown.recordCount()).arg(wanted.size());
        const auto number = *shown.table->schema.find("number"), work = *shown.table->schema.find("work");
        for (std::size_t place = 0; place < wanted.size(); ++place) {
            const SourceRow row = shown.record(static_cast<std::int64_t>(place));
            if (std::get<std::int64_t>(shown.value(row, number)) != std::stoll(wanted[place][0])) {
                return QString("place %1 is not %2 but %3")
                    .arg(place)
                    .arg(wanted[place][0].c_str())
                    .arg(std::get<std::int64_t>(shown.value(row, number)));
            }
            if (std::get<std::string>(shown.value(row, work)) != wanted[place][1])
                return QString("%1 shows another work").arg(wanted[place][0].c_str());
        }
        if (const QString wrong = faceDifference(wanted); !wrong.isEmpty()) return wrong;
        if ((shown.grouped != nullptr) != !group.empty()) return "groups or none";
        if (!shown.grouped) return {};
        const auto counts = ask("SELECT count(*) FROM jobs" + where() + " GROUP BY " + group + " ORDER BY " + group +
                                " IS NULL, " + group);
        const GroupTree& tree = shown.grouped->tree();
        if (tree.nodes.size() != counts.size()) return "another number of groups";
        for (std::size_t n = 0; n < counts.size(); ++n)
            if (tree.nodes[n].count != std::stoll(counts[n][0])) return "a group of another size";
        return {};
    }
};

}  // namespace

class GridWalkTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void walk_data() {
        QTest::addColumn<unsigned>("seed");
        for (unsigned seed = 1; seed <= 5; ++seed) QTest::addRow("seed %u", seed) << seed;
    }
    void walk() {
        QFETCH(unsigned, seed);
        Walk walk(seed);
        QVERIFY(walk.fixture.open());
        QString did;
        for (int step = 0; step < 60; ++step) {
            QString wrong;
            const auto what = walk.random() % 12;
            switch (what) {
                case 0: walk.filter(); break;
                case 1: walk.sort(); break;
                case 2: walk.regroup(); break;
                case 3: walk.openSome(); break;
                case 4: wrong = walk.reload(); break;
                case 5: walk.wander(); break;
                case 6: wrong = walk.insert(); break;
                case 7: wrong = walk.remove(); break;
                case 8: wrong = walk.undo(); break;
                default: wrong = walk.type(); break;
            }
            if (wrong.isEmpty()) wrong = walk.wrong();
            did += QString::number(what) + ' ';
            const std::string asked = walk.where() + walk.orderBy();
            QVERIFY2(
                wrong.isEmpty(),
                qPrintable(
                    QString("step %1: %2, of%3; did %4").arg(step).arg(wrong, QString::fromStdString(asked), did)));
        }
        QVERIFY2(walk.edits >= 5, qPrintable(QString::number(walk.edits)));
        QVERIFY(walk.inserts > 0 && walk.removals > 0);
    }
};

QTEST_MAIN(GridWalkTest)
#include "tst_grid_walk.moc"
