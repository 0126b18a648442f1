// SPDX-License-Identifier: MIT
// Editing at a million records that are grouped, filtered and sorted: an edit, an insertion and a deletion to their
// repaint; many cells at once; a batch against bare prepared statements; the journal beside its flush.
#include <fcntl.h>
#include <sqlite3.h>
#include <unistd.h>

#include <QTemporaryDir>
#include <QTest>

#include "bench/measure.h"
#include "core/design/make_design.h"
#include "core/editing/draft_file.h"
#include "core/session/session.h"
#include "grid/api/grid.h"

namespace jollyrow::bench {
namespace {

/// Takes everything at once and keeps nothing, so that what is measured is not the disk.
class TakingStore final : public Store {
  public:
    Result<std::vector<Outcome>> write(std::span<const RecordWrite> records, Atomicity, const Cancel&) override {
        std::vector<Outcome> outcomes;
        for (const RecordWrite& record : records) {
            StoredRecord stored;
            stored.key = record.change == RecordChange::Insert ? RecordKey{Value(next_++)} : record.key;
            if (record.change != RecordChange::Delete)
                for (const FieldChange& change : record.changes) stored.values.push_back(change.after);
            outcomes.emplace_back(std::move(stored));
        }
        return outcomes;
    }

  private:
    std::int64_t next_ = 500'000'000;
};

class Form {
  public:
    explicit Form(const Setting& setting) {
        auto source = openSource(setting.database);
        Design design = designFor(*(*source)->schema({"jobs", "", {}}), {"sqlite", setting.database, "jobs", ""});
        GroupDesign status;
        status.key.field = "status";
        design.groups = {status};
        design.filter = {{"hours > 2", "", "", true, {}}};
        design.sort = {{"due_on", Direction::Ascending, Empties::Last}};
        for (const char* column : {"hours", "labour", "parts"}) {
            SummaryDesign sum;
            sum.column = column;
            sum.name = newSummaryName(design, sum);
            design.summaries.push_back(sum);
        }
        grid.records().setDraftFolder({});
        grid.resize(1280, 800);
        if (!session()
                 .open(design, *source,
                       []() -> Result<std::unique_ptr<Store>> {
                           return std::unique_ptr<Store>(std::make_unique<TakingStore>());
                       })
                 .ok())
            qFatal("the form did not open");
        grid.show();
        if (!QTest::qWaitFor([&] { return !grid.isLoading() && grid.snapshot()->grouped; }, 900'000))
            qFatal("the form did not load");
    }
    Session& session() { return grid.session(); }
    SourceRow row(std::int64_t place) { return grid.snapshot()->record(place); }
    FieldIndex field(const char* name) { return *session().schema().find(name); }
    /// Turns of the event loop, without pauses, until the records shown are so many.
    void until(std::int64_t records) {
        while (grid.snapshot()->recordCount() != records) QApplication::processEvents();
        grid.viewport()->repaint();
    }
    void untilSaved() {
        while (grid.snapshot()->edits->count(EditState::Saving) != 0) QApplication::processEvents();
        grid.viewport()->repaint();
    }
    void settle() {
        if (!QTest::qWaitFor([&] { return grid.snapshot()->edits->count(EditState::Saving) == 0; }, 60'000))
            qFatal("an edit has no answer");
        QTest::qWait(30);
    }
    Grid grid;
};

struct Database {
    explicit Database(const std::string& path) {
        sqlite3_open(path.c_str(), &handle);
        run("PRAGMA foreign_keys = ON");
    }
    ~Database() { sqlite3_close(handle); }
    void run(const char* sql) const { sqlite3_exec(handle, sql, nullptr, nullptr, nullptr); }
    sqlite3* handle = nullptr;
};

/// The records of a batch: one field of each.
Figure batch(const Setting& setting) {
    constexpr std::int64_t kRecords = 10'000;
    QTemporaryDir folder;
    const std::string path = folder.filePath("yard.db").toStdString();
    if (!copyDatabase(setting.database, path, Cancel()).ok()) qFatal("no copy");
    const std::int64_t count = std::min(kRecords, setting.rows);
    auto source = openSource(path);
    LoadRequest request;
    request.binding = {"jobs", ""};
    request.most = count;
    const auto table = *(*source)->load(request, Cancel());
    const FieldIndex work = *table->schema.find("work");
    const SharedSchema schema = table->schema;
    std::vector<std::string> now;
    for (std::int64_t i = 0; i < count; ++i)
        now.push_back(std::get<std::string>(table->column(work)->value(static_cast<SourceRow>(i))));
    int turn = 0;
    const auto next = [&] { return "batch " + std::to_string(++turn); };
    auto store = openStore(path);
    const Database bare(path);
    return compare(
        "10 000 changed records saved in one transaction", "bare prepared UPDATEs", "at most 2.0", setting.rounds,
        [&] {
            const std::string text = next();
            std::vector<RecordWrite> writes;
            for (std::int64_t i = 0; i < count; ++i) {
                RecordWrite write;
                write.schema = schema;
                write.key = table->key(static_cast<SourceRow>(i));
                write.keyFields = table->keyFields;
                write.keyIsRowId = table->rowIds != nullptr;
                write.changes = {{work, now[static_cast<std::size_t>(i)], text}};
                writes.push_back(std::move(write));
            }
            const double took = timed([&] {
                if (!(*store)->write(writes, Atomicity::AllOrNothing, Cancel()).ok()) qFatal("not saved");
            });
            now.assign(now.size(), text);
            return took;
        },
        [&] {
            const std::string text = next();
            sqlite3_stmt* update = nullptr;
            sqlite3_prepare_v2(bare.handle, "UPDATE jobs SET work = ?1 WHERE number = ?2", -1, &update, nullptr);
            const double took = timed([&] {
                bare.run("BEGIN IMMEDIATE");
                for (std::int64_t i = 0; i < count; ++i) {
                    sqlite3_bind_text(update, 1, text.c_str(), -1, SQLITE_STATIC);
                    sqlite3_bind_int64(update, 2,
                                       std::get<std::int64_t>(table->key(static_cast<SourceRow>(i)).front()));
                    sqlite3_step(update);
                    sqlite3_reset(update);
                }
                bare.run("COMMIT");
            });
            sqlite3_finalize(update);
            now.assign(now.size(), text);
            return took;
        });
}

Figure journal(const Setting& setting) {
    QTemporaryDir folder;
    KeptDrafts left;
    auto file = DraftFile::open(folder.path().toStdString(), "/yard.db", "jobs", left);
    const int bare = ::open(folder.filePath("bare").toUtf8().constData(), O_WRONLY | O_CREAT | O_APPEND, 0600);
    KeptRecord record;
    record.id = "1";
    record.key = {std::int64_t{4096}};
    record.cells = {{"work", std::string("Rewire mast"), std::string("Step mast")},
                    {"hours", Decimal{1850, 2}, Decimal{1600, 2}}};
    const std::string line(300, 'x');
    int turn = 0;
    Figure figure = compare(
        "a keystroke's commit kept on disk", "a bare write of 300 bytes and its flush", "at most 1 ms more",
        setting.rounds * 8,
        [&] {
            record.when = ++turn;
            return timed([&] {
                if (!file->keep({record}).ok()) qFatal("not kept");
            });
        },
        [&] {
            return timed([&] {
                if (::write(bare, line.data(), line.size()) < 0 || ::fdatasync(bare) != 0) qFatal("no disk");
            });
        });
    ::close(bare);
    return figure;
}

}  // namespace

std::vector<Figure> benchEditing(const Setting& setting) {
    std::vector<Figure> figures;
    Form form(setting);
    Grid& grid = form.grid;
    std::int64_t turn = 0;
    figures.push_back(
        limit("an edit to its repaint, grouped, filtered, sorted", "at most 8 ms", 8, setting.rounds * 4, [&] {
            const SourceRow row = form.row(++turn * 7);
            const double took = timed([&] {
                form.session().records().edit(row, form.field("hours"), Decimal{300 + turn, 2});
                grid.viewport()->repaint();
            });
            form.settle();
            return took;
        }));
    figures.push_back(
        limit("a record saved, to its repaint, beside the store", "at most 15 ms", 15, setting.rounds * 4, [&] {
            const SourceRow row = form.row(++turn * 7);
            const double took = timed([&] {
                form.session().records().edit(row, form.field("hours"), Decimal{300 + turn, 2});
                form.untilSaved();
            });
            form.settle();
            return took;
        }));
    const std::int64_t count = grid.snapshot()->recordCount();
    std::vector<SourceRow> made;
    const auto insert = [&] {
        const std::int64_t before = grid.snapshot()->recordCount();
        const auto row = form.session().records().insert({{form.field("hours"), Decimal{500, 2}}});
        made.push_back(*row);
        form.until(before + 1);
    };
    const double first = timed(insert);
    figures.push_back({"the first record inserted (the table's room is taken)", first / 100, first, 100, "the limit",
                       "said, no aim"});
    figures.push_back(limit("a record inserted to repainted summaries", "at most 8 ms", 8, setting.rounds * 2,
                            [&] { return timed(insert); }));
    figures.push_back(limit("a record deleted to repainted summaries", "at most 8 ms", 8, setting.rounds * 2, [&] {
        const std::int64_t before = grid.snapshot()->recordCount();
        const SourceRow row = form.row(++turn * 5);
        return timed([&] {
            form.session().records().remove({row});
            form.until(before - 1);
        });
    }));
    figures.push_back(limit("10 000 cells written at once", "at most 300 ms", 300, setting.rounds, [&] {
        std::vector<CellWrite> cells;
        ++turn;
        for (std::int64_t i = 0; i < std::min<std::int64_t>(10'000, count / 2); ++i)
            cells.push_back({form.row(i + 100), form.field("hours"), Value(Decimal{1000 + turn, 2})});
        const double took = timed([&] {
            form.session().records().edit(cells);
            grid.viewport()->repaint();
        });
        form.settle();
        return took;
    }));
    figures.push_back(batch(setting));
    figures.push_back(journal(setting));
    return figures;
}

}  // namespace jollyrow::bench
