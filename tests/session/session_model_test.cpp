// SPDX-License-Identifier: MIT
// The session against a plain map: random edits, edits of keys, reloads, cancels, cut and locked loads, refused saves,
// re-sorts and a second writer, interleaved at every gate of a faulty source and store. At any moment: no save reaches
// another record than the one typed on; none conflicts with the session's own; what was saved is what is shown; what is
// kept names the same record. In the end the screen is the database. Also run under ThreadSanitizer.
#include <QtTest>

#include <random>

#include "core/columns/room.h"
#include "core/design/make_design.h"
#include "core/session/session.h"
#include "tests/session/inbox.h"
#include "tests/sources/faulty_source.h"
#include "tests/turns.h"

using namespace jollyrow;

namespace {

constexpr FieldIndex kKey{0}, kUid{1}, kA{2}, kB{3};

class Walk {
  public:
    explicit Walk(unsigned seed) : random_(seed) {
        for (int i = 0; i < 40; ++i) insert();
        SessionListener listener;
        listener.onRowsMoved = [this](const RowMoves&) {
            ++moves;
            db->note("rows move");
        };
        listener.onLoaded = [this](const Result<void>& result) {
            db->note(result ? "loaded" : result.error().message);
        };
        listener.onEditAnswered = [this](SourceRow, FieldIndex, const CellEdit& edit) {
            const auto* number = std::get_if<std::int64_t>(&edit.value);
            db->note("answered " + (number ? std::to_string(*number) : textOf(edit.value)) + " " + edit.message);
        };
        session = std::make_unique<Session>([this](std::function<void()> call) { inbox.post(std::move(call)); },
                                            std::move(listener));
        Design design = designFor(FaultyDatabase::schema(), {"sqlite", "", "faulty", ""});
        // With each cell saved by itself hardly anything is ever a draft.
        if (seed % 3 == 0) design.grid.saving = Saving::EachRecord;
        const auto store = [db = db]() -> Result<std::unique_ptr<Store>> {
            return std::unique_ptr<Store>(std::make_unique<FaultyStore>(db));
        };
        if (!session->open(design, std::make_shared<FaultySource>(db), store)) qFatal("the session did not open");
    }
    ~Walk() { openGates(); }

    void openGates() {
        db->reads.open();
        db->deliveries.open();
        db->writes.open();
    }
    void openWrites() { db->writes.open(); }
    void shutGates() {
        db->reads.shut();
        db->deliveries.shut();
        db->writes.shut();
    }
    std::int64_t pick(std::int64_t below) {
        return static_cast<std::int64_t>(random_() % static_cast<unsigned long>(below));
    }
    void insert() {
        const std::lock_guard lock(db->mutex);
        const std::int64_t key = ++newestKey * 3 + pick(2);
        const std::string uid = "u" + std::to_string(newestKey);
        db->rows[key] = {uid, {uid + " first", false}, {uid + " first", false}};
    }
    void otherWriter() {
        const std::lock_guard lock(db->mutex);
        if (db->rows.empty()) return;
        auto at = std::next(db->rows.begin(), pick(static_cast<std::int64_t>(db->rows.size())));
        switch (pick(3)) {
            case 0: db->rows.erase(at); break;
            case 1: at->second.a = {at->second.uid + " other " + std::to_string(++serial), false}; break;
            default: {
                auto node = db->rows.extract(at);
                node.key() = ++newestKey * 3 + 2;
                db->rows.insert(std::move(node));
            }
        }
    }
    static std::string textOf(const Value& value) {
        const auto* text = std::get_if<std::string>(&value);
        return text ? *text : std::string();
    }
    std::string uidOf(SourceRow row) { return textOf(session->snapshot()->value(row, kUid)); }
    std::optional<SourceRow> anyRow() {
        // Some of the spare rows, too, where records were inserted.
        const Table& table = *session->snapshot()->table;
        const std::size_t rows = table.loaded() + std::min<std::size_t>(table.spare, 30);
        if (rows == 0) return std::nullopt;
        return static_cast<SourceRow>(pick(static_cast<std::int64_t>(rows)));
    }
    void edit() {
        const auto row = anyRow();
        if (!row || !isRecord(*row)) return;
        db->note("edit of " + uidOf(*row) + " " + std::to_string(serial + 1));
        if (pick(6) == 0)
            session->records().edit(*row, kKey, std::int64_t{1'000'000} + ++serial);
        else
            session->records().edit(*row, pick(2) == 0 ? kA : kB, uidOf(*row) + " mine " + std::to_string(++serial));
        ++edits;
        if (session->design().grid.saving == Saving::EachRecord && pick(3) != 0) session->records().save({*row});
    }
    void takeBack() {
        const auto row = anyRow();
        if (!row || !isRecord(*row)) return;
        db->note("taking back of " + uidOf(*row));
        pick(2) == 0 ? session->records().revert(*row) : session->records().putBack(*row, pick(2) == 0 ? kA : kB);
    }
    void step() {
        const auto what = pick(20);
        log += " " + std::to_string(what);
        switch (what) {
            case 0:
            case 1:
            case 2:
            case 3: edit(); break;
            case 4:
            case 5: db->writes.allow(1 + static_cast<int>(pick(3))); break;
            case 6: db->reads.allow(1); break;
            case 7: db->deliveries.allow(1); break;
            case 8: session->reload(); break;
            case 9: pick(3) == 0 ? session->cancelLoad() : insert(); break;
            case 10:
            case 11: otherWriter(); break;
            case 12: {
                Design design = session->design();
                design.sort = {{pick(2) == 0 ? "a" : "key", Direction::Descending, Empties::Last}};
                session->setDesign(design);
                break;
            }
            case 13: pick(2) == 0 ? session->view().resort() : takeBack(); break;
            case 14:
                if (const auto row = anyRow();
                    row && raw(*row) < session->snapshot()->table->loaded() && isRecord(*row))
                    kept.emplace_back(session->refOf(*row), uidOf(*row));
                break;
            case 15:
            case 16: insertHere(); break;
            case 17: removeHere(); break;
            case 18:
                db->note("undo or redo");
                pick(2) == 0 ? session->steps().undo() : session->steps().redo();
                break;
            default: {
                using Fault = FaultyDatabase::Fault;
                const Fault faults[] = {Fault::Locked, Fault::Cut, Fault::Lies};
                pick(2) == 0 ? db->nextLoad = faults[pick(3)] : db->nextWrite = Fault::Locked;
            }
        }
        inbox.pump(static_cast<std::size_t>(pick(4)));
    }
    /// A load that has read, and waits to deliver; who stands in the fourth row.
    std::string readAndNotDelivered() {
        shutGates();
        session->reload();
        db->reads.allow(1);
        QTest::qWait(20);
        return uidOf(SourceRow{3});
    }
    /// Records that are there now, by the session's own reckoning.
    bool isRecord(SourceRow row) {
        const Snapshot& shown = *session->snapshot();
        const auto absent = absentRows(*shown.table, shown.edits.get());
        return raw(row) < shown.table->rows && !std::binary_search(absent.begin(), absent.end(), raw(row));
    }
    void insertHere() {
        const std::string uid = "h" + std::to_string(++serial);
        const auto made = session->records().insert({{kUid, uid}, {kA, uid + " made"}});
        if (!made) return;
        db->note("insert of " + uid);
        ++inserts;
        if (pick(3) != 0) session->records().save({*made});
    }
    void removeHere() {
        const auto row = anyRow();
        if (!row || !isRecord(*row)) return;
        db->note("removal of " + uidOf(*row));
        session->records().remove({*row});
        ++removals;
    }
    /// What must hold whatever is on its way; "" when it does.
    std::string broken() {
        if (db->doubled != 0) return "a record was inserted twice";
        if (db->wrongRecords != 0) return "a save reached another record";
        if (db->ownConflicts != 0) {
            const std::lock_guard lock(db->mutex);
            return "a save conflicted with the session's own: " + db->conflict;
        }
        for (const auto& [ref, uid] : kept)
            if (const auto row = session->now(ref); row && uidOf(*row) != uid)
                return "what was kept of " + uid + " is " + uidOf(*row) + " now";
        const Snapshot& shown = *session->snapshot();
        std::map<std::string, FaultyDatabase::Row> byUid;
        for (const auto& [key, row] : db->state()) byUid[row.uid] = row;
        std::vector<bool> isThere(shown.table->rows, true);
        for (const std::uint32_t row : absentRows(*shown.table, shown.edits.get())) isThere[row] = false;
        std::map<std::string, int> times;
        for (std::size_t i = 0; i < shown.table->rows; ++i)
            if (isThere[i]) ++times[uidOf(static_cast<SourceRow>(i))];
        for (std::size_t i = 0; i < shown.table->rows; ++i) {
            const auto row = static_cast<SourceRow>(i);
            if (!isThere[i]) continue;
            const auto stored = byUid.find(uidOf(row));
            if (stored == byUid.end()) continue;
            // Inserted here while a load was under way, and given another key by somebody else before that read it:
            // nobody can tell that these are one, until the next load.
            if (times[stored->first] > 1) continue;
            for (const FieldIndex field : {kA, kB}) {
                const FaultyDatabase::Cell& cell = field == kA ? stored->second.a : stored->second.b;
                const CellEdit* typed = shown.edits->find(row, field);
                if (typed && typed->state != EditState::Saved) continue;
                // The session's own save, answered: nothing older may be shown any more.
                if (cell.bySession && textOf(shown.value(row, field)) != cell.text && !isOnItsWay(stored->first))
                    return stored->first + " shows " + textOf(shown.value(row, field)) + " and holds " + cell.text;
            }
        }
        return {};
    }
    /// A save that the store has done and the session has not heard of yet.
    bool isOnItsWay(const std::string& uid) {
        const Snapshot& shown = *session->snapshot();
        for (const auto& [place, edit] : shown.edits->cells())
            if (edit.state == EditState::Saving && uidOf(place.first) == uid) return true;
        return false;
    }
    bool settle() {
        openGates();
        QElapsedTimer timer;
        timer.start();
        while (timer.elapsed() < 20000) {
            inbox.pump();
            if (!session->isLoading() && session->snapshot()->edits->count(EditState::Saving) == 0) return true;
            QThread::msleep(1);
        }
        return false;
    }

    std::shared_ptr<FaultyDatabase> db = std::make_shared<FaultyDatabase>();
    Inbox inbox;
    std::unique_ptr<Session> session;
    std::vector<std::pair<RowRef, std::string>> kept;
    int edits = 0, moves = 0, inserts = 0, removals = 0;
    std::int64_t newestKey = 0, serial = 0;
    std::string log;

  private:
    std::mt19937 random_;
};

}  // namespace

class SessionModelTest : public QObject {
    Q_OBJECT
  private slots:
    void randomWalksNeverReachAnotherRecord() {
        int moves = 0, edits = 0, inserts = 0, removals = 0;
        // How many reloads come to their end depends on the machine's other work: more walks until there were enough.
        const auto enough = [&] { return moves > test::turns(60) && edits > test::turns(60) * 20; };
        for (int seed = 1; seed <= test::turns(60) || (!enough() && seed <= test::turns(600)); ++seed) {
            Walk walk(static_cast<unsigned>(seed));
            walk.db->reads.allow(1);
            walk.db->deliveries.allow(1);
            for (int step = 0; step < 250; ++step) {
                walk.step();
                if (const std::string wrong = walk.broken(); !wrong.empty()) {
                    for (const std::string& line : walk.db->trace) qWarning("%s", line.c_str());
                    QFAIL(qPrintable(QString("seed %1, step %2: %3").arg(seed).arg(step).arg(wrong.c_str())));
                }
            }
            QVERIFY(walk.settle());
            // Rest: what was refused is put back, the records are read again, and the screen is the database.
            for (int round = 0; round < 2; ++round) {
                const auto refused = walk.session->snapshot()->edits;
                refused->forEachRecord([&](SourceRow row, const RecordEdit&) { walk.session->records().revert(row); });
                walk.session->reload();
                QVERIFY(walk.settle());
            }
            const Snapshot& shown = *walk.session->snapshot();
            const auto rows = walk.db->state();
            QCOMPARE(static_cast<std::size_t>(shown.recordCount()), rows.size());
            std::map<std::int64_t, SourceRow> byKey;
            for (std::int64_t i = 0; i < shown.recordCount(); ++i)
                byKey[std::get<std::int64_t>(shown.value(shown.record(i), kKey))] = shown.record(i);
            for (const auto& [key, row] : rows) {
                QVERIFY(byKey.contains(key));
                const SourceRow n = byKey[key];
                QCOMPARE(shown.value(n, kKey), Value(key));
                QCOMPARE(shown.value(n, kUid), Value(row.uid));
                QCOMPARE(Walk::textOf(shown.value(n, kA)), row.a.text);
                QCOMPARE(Walk::textOf(shown.value(n, kB)), row.b.text);
            }
            if (const std::string wrong = walk.broken(); !wrong.empty()) {
                for (const std::string& line : walk.db->trace) qWarning("%s", line.c_str());
                QFAIL(qPrintable(QString("seed %1, at rest: %2").arg(seed).arg(wrong.c_str())));
            }
            inserts += walk.inserts;
            removals += walk.removals;
            moves += walk.moves;
            edits += walk.edits;
        }
        QVERIFY2(enough(), "the walks did not reload or edit enough to mean something");
        QVERIFY2(inserts > moves && removals > moves / 4, "the walks did not insert or delete enough");
    }

    /// A record with a refused edit is deleted and brought back, with what was typed, while a load that has read the
    /// older one waits to deliver it.
    void aRecordThatIsHereAgainIsNotTheOlderOne() {
        Walk walk(10);
        walk.openGates();
        QVERIFY(walk.settle());
        const std::string uid = walk.uidOf(SourceRow{3});
        walk.db->nextWrite = FaultyDatabase::Fault::Locked;
        walk.session->records().edit(SourceRow{3}, kA, uid + " typed");
        QTRY_VERIFY((walk.inbox.pump(), walk.session->snapshot()->edits->count(EditState::Saving) == 0));
        QCOMPARE(walk.session->records().unsaved(), std::size_t{1});
        walk.shutGates();
        walk.session->reload();
        walk.db->reads.allow(1);
        QTest::qWait(20);  // the load has read, and waits to deliver
        walk.openWrites();
        walk.session->records().remove({SourceRow{3}});
        QTRY_VERIFY((walk.inbox.pump(), !walk.isRecord(SourceRow{3})));
        QTRY_VERIFY((walk.inbox.pump(), walk.session->snapshot()->edits->count(EditState::Saving) == 0));
        QVERIFY(walk.session->steps().undo());
        QTRY_VERIFY((walk.inbox.pump(), walk.session->records().unsaved() == 0));
        walk.openGates();
        QTRY_VERIFY((walk.inbox.pump(), walk.moves == 1));
        const std::string wrong = walk.broken();
        QVERIFY2(wrong.empty(), wrong.c_str());
        int found = 0;
        const auto& shown = walk.session->snapshot();
        for (std::int64_t i = 0; i < shown->recordCount(); ++i)
            if (walk.uidOf(shown->record(i)) == uid) {
                QCOMPARE(shown->value(shown->record(i), kA), Value(uid + " typed"));
                ++found;
            }
        QCOMPARE(found, 1);
    }

    /// A record is found to be gone by a save, and let go or made again, while a load that has read it before waits to
    /// deliver: it does not come back as it was.
    void aRecordThatIsLostDoesNotComeBackOlder_data() {
        QTest::addColumn<int>("then");
        int n = 0;
        for (const char* then : {"reverted", "all reverted", "put back", "made again", "deleted here and undone"})
            QTest::newRow(then) << n++;
    }
    void aRecordThatIsLostDoesNotComeBackOlder() {
        QFETCH(int, then);
        Walk walk(13);
        walk.openGates();
        QVERIFY(walk.settle());
        const std::string uid = walk.readAndNotDelivered();
        const SourceRow row{3};
        const auto answered = [&] {
            return walk.inbox.pump(), walk.session->snapshot()->edits->count(EditState::Saving) == 0;
        };
        walk.openWrites();
        walk.session->records().edit(row, kA, uid + " saved");
        QTRY_VERIFY(answered());
        QCOMPARE(walk.session->records().unsaved(), std::size_t{0});
        if (then != 4) {
            {
                const std::lock_guard lock(walk.db->mutex);
                std::erase_if(walk.db->rows, [&](const auto& one) { return one.second.uid == uid; });
            }
            walk.session->records().edit(row, kA, uid + " too late");
            QTRY_VERIFY(answered());
            QCOMPARE(walk.session->snapshot()->edits->count(EditState::Conflict), std::size_t{1});
        }
        switch (then) {
            case 0: walk.session->records().revert(row); break;
            case 1: walk.session->records().revertAll(); break;
            case 2: walk.session->records().putBack(row, kA); break;
            case 3: QVERIFY(walk.session->records().makeAgain(row).ok()); break;
            default:
                walk.session->records().remove({row});
                QTRY_VERIFY(answered());
                QVERIFY(walk.session->steps().undo());
        }
        QTRY_VERIFY(answered());
        QTRY_VERIFY((walk.inbox.pump(), !walk.isRecord(row)));
        const int moves = walk.moves;
        walk.openGates();
        QTRY_VERIFY((walk.inbox.pump(), walk.moves == moves + 1));
        QVERIFY(walk.settle());
        std::vector<Value> found;
        const auto shown = walk.session->snapshot();
        for (std::int64_t i = 0; i < shown->recordCount(); ++i)
            if (walk.uidOf(shown->record(i)) == uid) found.push_back(shown->value(shown->record(i), kA));
        const std::vector<Value> wanted = then == 3   ? std::vector<Value>{uid + " too late"}
                                          : then == 4 ? std::vector<Value>{uid + " saved"}
                                                      : std::vector<Value>{};
        QCOMPARE(found, wanted);
        QCOMPARE(walk.broken(), std::string());
        walk.session->reload();
        QVERIFY(walk.settle());
        QCOMPARE(static_cast<std::size_t>(walk.session->snapshot()->recordCount()), walk.db->state().size());
    }

    /// The table has room of earlier insertions, the rows just read have none: a record that is made before they are
    /// shown has its place in them, too.
    void aRecordMadeWhileTheNextRowsWaitHasRoomInThem() {
        Walk walk(11);
        walk.openGates();
        QVERIFY(walk.settle());
        for (int round = 0; round < 2; ++round) {
            QVERIFY(walk.session->records().insert({{kUid, "first"}}).ok());
            walk.session->records().saveAll();
            QVERIFY(walk.settle());
            walk.session->reload();  // it is one of the loaded ones now; the room stays
            QVERIFY(walk.settle());
            QVERIFY(!walk.session->snapshot()->edits->hasFates());
            QVERIFY(walk.session->snapshot()->table->spare > 0);
            // Read and taken, and not shown yet: its view is still being made when the record is typed.
            const int moves = walk.moves;
            walk.session->reload();
            Result<SourceRow> made = Error{};
            for (int i = 0; i < 4000 && !made; ++i) {
                walk.inbox.pump(1);
                if (walk.moves == moves && walk.session->progress().rows == walk.session->progress().total)
                    made = walk.session->records().insert({{kUid, "second"}, {kA, "typed"}});
                QThread::usleep(200);
            }
            QVERIFY(made.ok());
            QTRY_VERIFY((walk.inbox.pump(), walk.moves > moves));
            QVERIFY(walk.settle());
            int found = 0;
            for (std::int64_t i = 0; i < walk.session->snapshot()->recordCount(); ++i)
                found += walk.uidOf(walk.session->snapshot()->record(i)) == "second" ? 1 : 0;
            QCOMPARE(found, 1);
            walk.session->records().revertAll();
            QVERIFY(walk.settle());
        }
    }

    /// A value is on its way, and another typed over it and taken back: what comes of the first is still heard of.
    void whatIsOnItsWayIsHeardOfWhateverIsTakenBack_data() {
        QTest::addColumn<int>("how");
        QTest::newRow("the cell") << 0;
        QTest::newRow("the record") << 1;
        QTest::newRow("typed as it was, and reloaded") << 2;
    }
    void whatIsOnItsWayIsHeardOfWhateverIsTakenBack() {
        QFETCH(int, how);
        for (const bool isRefused : {false, true}) {
            Walk walk(12);  // each record is saved as a whole
            walk.openGates();
            QVERIFY(walk.settle());
            walk.shutGates();
            const SourceRow row{3};
            const std::string uid = walk.uidOf(row);
            walk.session->records().edit(row, kA, uid + " on its way");
            QCOMPARE(walk.session->records().save({row}), std::size_t{1});
            walk.session->records().edit(row, kA, uid + (how == 2 ? " first" : " typed over"));
            if (how == 0) walk.session->records().putBack(row, kA);
            if (how == 1) walk.session->records().revert(row);
            if (how == 2) {
                walk.session->reload();
                walk.db->reads.open();
                walk.db->deliveries.open();
                QTRY_VERIFY((walk.inbox.pump(), walk.moves == 1));
            }
            const auto edit = [&] { return walk.session->snapshot()->edits->find(row, kA); };
            QVERIFY(edit() && edit()->state == (how == 2 ? EditState::Draft : EditState::Saving));
            if (isRefused) walk.db->nextWrite = FaultyDatabase::Fault::Locked;
            walk.openGates();
            QTRY_VERIFY((walk.inbox.pump(), !edit() || (edit()->state != EditState::Saving && !edit()->sent)));
            QCOMPARE(walk.broken(), std::string());
            const std::string stored = uid + (isRefused ? " first" : " on its way");
            if (how == 2) {  // a draft over what is stored, which is saved without a conflict
                QVERIFY(edit() && edit()->state == EditState::Draft);
                QCOMPARE(edit()->original, Value(stored));
                walk.session->records().save({row});
                QTRY_VERIFY((walk.inbox.pump(), walk.session->records().unsaved() == 0));
                QCOMPARE(walk.session->snapshot()->value(row, kA), Value(uid + " first"));
            } else {
                QCOMPARE(edit()->state, isRefused ? EditState::Refused : EditState::Saved);
                QCOMPARE(walk.session->snapshot()->value(row, kA), Value(uid + " on its way"));
            }
        }
    }

    void aSaveBetweenReadingAndChangeOverStays() {
        Walk walk(7);
        walk.openGates();
        QVERIFY(walk.settle());
        const std::string uid = walk.readAndNotDelivered();
        walk.session->records().edit(SourceRow{3}, kA, uid + " new");
        walk.db->writes.allow(1);
        QTRY_VERIFY((walk.inbox.pump(), walk.session->records().unsaved() == 0));
        walk.db->deliveries.allow(1);
        QTRY_VERIFY((walk.inbox.pump(), walk.moves == 1));
        QCOMPARE(walk.session->snapshot()->value(SourceRow{3}, kA), Value(uid + " new"));
        walk.session->records().edit(SourceRow{3}, kA, uid + " newer");
        walk.db->writes.allow(1);
        QTRY_VERIFY((walk.inbox.pump(), walk.session->records().unsaved() == 0));
        QCOMPARE(walk.broken(), std::string());
    }

    /// What others wrote was seen by the way, in the answer to a save of another field or in a conflict, while a load
    /// that had read what was there before was still to come.
    void whatWasSeenByTheWayIsNotTakenForOlder_data() {
        QTest::addColumn<QString>("how");
        for (const char* how : {"read back", "read back and edited", "in conflict"}) QTest::newRow(how) << how;
    }
    void whatWasSeenByTheWayIsNotTakenForOlder() {
        QFETCH(QString, how);
        Walk walk(7);
        walk.openGates();
        QVERIFY(walk.settle());
        const std::string uid = walk.readAndNotDelivered();
        {
            const std::lock_guard lock(walk.db->mutex);
            for (auto& [key, row] : walk.db->rows)
                if (row.uid == uid) row.a = {uid + " other", false};
        }
        const bool conflicts = how == "in conflict";
        walk.session->records().edit(SourceRow{3}, conflicts ? kA : kB, uid + " mine");
        walk.db->writes.allow(1);
        QTRY_VERIFY((walk.inbox.pump(), walk.session->snapshot()->edits->count(EditState::Saving) == 0));
        std::string shown = uid + (conflicts ? " mine" : " other");
        QCOMPARE(walk.session->snapshot()->value(SourceRow{3}, kA), Value(shown));
        if (how == "read back and edited") {
            shown = uid + " newest";
            walk.session->records().edit(SourceRow{3}, kA, shown);
            walk.db->writes.allow(1);
            QTRY_VERIFY((walk.inbox.pump(), walk.session->records().unsaved() == 0));
        }
        walk.db->deliveries.allow(1);
        QTRY_VERIFY((walk.inbox.pump(), walk.moves == 1));
        QCOMPARE(walk.session->snapshot()->value(SourceRow{3}, kA), Value(shown));
        QCOMPARE(walk.broken(), std::string());
        if (!conflicts) return;
        const CellEdit* edit = walk.session->snapshot()->edits->find(SourceRow{3}, kA);
        QVERIFY(edit && edit->state == EditState::Conflict && edit->theirs);
        QCOMPARE(*edit->theirs, Value(uid + " other"));
    }

    void editsOfAPartMoveOverACancelledLoad() {
        Walk walk(8);
        walk.db->reads.allow(1);
        QTRY_VERIFY((walk.inbox.pump(), walk.session->snapshot()->table->rows == 20));
        walk.session->cancelLoad();
        QTRY_VERIFY((walk.inbox.pump(), !walk.session->isLoading()));
        const std::string uid = walk.uidOf(SourceRow{10});
        walk.db->nextWrite = FaultyDatabase::Fault::Locked;
        walk.db->writes.allow(1);
        walk.session->records().edit(SourceRow{10}, kA, uid + " kept");
        QTRY_VERIFY((walk.inbox.pump(), walk.session->snapshot()->edits->count(EditState::Refused) == 1));
        {
            const std::lock_guard lock(walk.db->mutex);
            walk.db->rows.erase(walk.db->rows.begin());
        }
        walk.session->reload();
        walk.openGates();
        QVERIFY(walk.settle());
        QCOMPARE(walk.uidOf(SourceRow{9}), uid);
        QCOMPARE(walk.session->snapshot()->value(SourceRow{9}, kA), Value(uid + " kept"));
    }
};

QTEST_GUILESS_MAIN(SessionModelTest)
#include "session_model_test.moc"
