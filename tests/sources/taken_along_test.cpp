// SPDX-License-Identifier: MIT
// What a database deletes and unlinks with a record comes back with it, to the byte: over made-up databases of tables
// that point to each other and to themselves in every way, in SQLite and PostgreSQL.
#include <QtTest>

#include <fmt/format.h>

#include <random>

#include "tests/rules/postgres_server.h"
#include "tests/sources/database.h"
#include "tests/stored_text.h"

using namespace jollyrow;

namespace {

/// A database under test, and how it is looked at past the store.
struct Place {
    std::string address;
    bool isServer = false;
    std::function<void(const std::string&)> does;
    std::function<std::string(const std::string&)> asked;  ///< the first value, as text

    std::shared_ptr<const Source> source() const { return *openSource(address); }
    std::unique_ptr<Store> store() const { return std::move(*openStore(address)); }
};

struct LinkMade {
    int from = 0, to = 0;
    bool isDouble = false;  ///< of two fields
    const char* action = "CASCADE";
};

constexpr int kTables = 5;
constexpr int kRows = 12;

class MadeUp {
  public:
    MadeUp(std::mt19937& random, Place& place) : random_(random), place_(place) {
        const char* actions[] = {"CASCADE", "CASCADE", "SET NULL", "SET DEFAULT", "NO ACTION"};
        const int count = upTo(7) + 1;
        for (int i = 0; i < count; ++i) {
            LinkMade link{upTo(kTables - 1), upTo(kTables - 1), upTo(3) == 0, actions[upTo(3)]};
            if (upTo(9) == 0) link.action = actions[4];
            links_.push_back(link);
        }
        links_.front().to = 0;
        links_.front().action = "CASCADE";
    }

    void make() {
        for (int t = 0; t < kTables; ++t) {
            std::string sql = fmt::format("CREATE TABLE \"t {}\" (id INTEGER NOT NULL, k TEXT NOT NULL, v TEXT", t);
            for (std::size_t l = 0; l < links_.size(); ++l)
                if (links_[l].from == t) sql += fmt::format(", f{0} INTEGER DEFAULT 1, g{0} TEXT DEFAULT 'k1'", l);
            sql += place_.isServer ? ", twice INTEGER GENERATED ALWAYS AS (id * 2) STORED"
                                   : ", twice INTEGER AS (id * 2) STORED";
            sql += ", PRIMARY KEY (id), UNIQUE (id, k)";
            for (std::size_t l = 0; l < links_.size() && !place_.isServer; ++l)
                if (links_[l].from == t) sql += ", " + linkSql(l);
            place_.does(sql + ")" + (!place_.isServer && t % 2 == 1 ? " WITHOUT ROWID" : ""));
        }
        for (int t = 0; t < kTables; ++t)
            for (int i = 1; i <= kRows; ++i) place_.does(rowSql(t, i));
        for (std::size_t l = 0; l < links_.size() && place_.isServer; ++l)
            place_.does(fmt::format("ALTER TABLE \"t {}\" ADD {}", links_[l].from, linkSql(l)));
    }

    std::string dump() const {
        std::string all;
        for (int t = 0; t < kTables; ++t) {
            std::string row = "id || k || coalesce(CAST(v AS TEXT), '-')";
            for (std::size_t l = 0; l < links_.size(); ++l)
                if (links_[l].from == t)
                    row += fmt::format(" || '/' || coalesce(CAST(f{0} AS TEXT), '-') || coalesce(g{0}, '-')", l);
            if (!place_.isServer) row += " || typeof(v) || hex(v)";
            all +=
                place_.asked(
                    place_.isServer
                        ? fmt::format("SELECT string_agg(r, ';' ORDER BY id) FROM (SELECT id, {} AS r FROM \"t {}\") s",
                                      row, t)
                        : fmt::format("SELECT group_concat(r, ';') FROM (SELECT {} AS r FROM \"t {}\" ORDER BY id)",
                                      row, t)) +
                "\n";
        }
        return all;
    }
    const std::vector<LinkMade>& links() const { return links_; }

  private:
    int upTo(int most) { return std::uniform_int_distribution<int>(0, most)(random_); }
    std::string linkSql(std::size_t l) const {
        const LinkMade& link = links_[l];
        return link.isDouble
                   ? fmt::format("FOREIGN KEY (f{0}, g{0}) REFERENCES \"t {1}\" (id, k) ON DELETE {2}", l, link.to,
                                 link.action)
                   : fmt::format("FOREIGN KEY (f{}) REFERENCES \"t {}\" ON DELETE {}", l, link.to, link.action);
    }
    std::string valueSql(int t) {
        const char* shared[] = {"NULL", "''", "'a,\"b\" (c)'", "'\\\\N \\ x'", "'it''s\nhere'", "'NULL'", "'007'"};
        const char* loose[] = {"x'00ff'", "1.5", "7", "x''", "9007199254740993"};
        return t != 0 && !place_.isServer && upTo(2) == 0 ? loose[upTo(4)] : shared[upTo(6)];
    }
    std::string rowSql(int t, int id) {
        std::string columns = "id, k, v", values = fmt::format("{0}, 'k{0}', {1}", id, valueSql(t));
        for (std::size_t l = 0; l < links_.size(); ++l) {
            if (links_[l].from != t) continue;
            const int to = upTo(kRows);
            columns += fmt::format(", f{0}, g{0}", l);
            values += to == 0 ? ", NULL, NULL" : fmt::format(", {0}, 'k{0}'", to);
        }
        return fmt::format("INSERT INTO \"t {}\" ({}) VALUES ({})", t, columns, values);
    }

    std::mt19937& random_;
    Place& place_;
    std::vector<LinkMade> links_;
};

RecordWrite writeTo(const Place& place, std::int64_t id) {
    RecordWrite write;
    write.schema = *place.source()->schema({"t 0", ""});
    write.keyFields = {*write.schema->find("id")};
    write.key = {id};
    return write;
}

Outcome written(const Place& place, const RecordWrite& write) {
    const auto answer = place.store()->write(std::vector{write}, Atomicity::EachRecord, Cancel());
    if (!answer) qFatal("%s", answer.error().message.c_str());
    return answer->front();
}

/// To make the record again that stands there now.
RecordWrite insertionOf(const Place& place, std::int64_t id) {
    RecordWrite write = writeTo(place, id);
    RecordRequest request{write.schema, {id}, false, write.keyFields, {}};
    for (std::size_t i = 0; i < write.schema->fields.size(); ++i)
        if (!write.schema->fields[i].generated) request.fields.push_back(static_cast<FieldIndex>(i));
    const auto values = place.source()->valuesOf(request);
    if (!values) qFatal("%s", values.error().message.c_str());
    for (std::size_t i = 0; i < request.fields.size(); ++i) {
        Value value = (*values)[i];
        write.changes.push_back({request.fields[i], Empty{}, std::move(value)});
    }
    write.key.clear();
    write.change = RecordChange::Insert;
    return write;
}

}  // namespace

class TakenAlongTest : public QObject {
    Q_OBJECT
    test::PostgresServer server_;
    QTemporaryDir folder_;
    int made_ = 0;

    Place place(bool onServer) {
        Place place;
        place.isServer = onServer;
        const std::string name = fmt::format("d{}", made_++);
        if (onServer) {
            if (const auto wrong = server_.execute("CREATE SCHEMA " + name + "; SET search_path = " + name);
                !wrong.empty())
                qFatal("%s", wrong.c_str());
            server_.execute("ALTER ROLE tester SET search_path = " + name);
            place.address = server_.address();
            place.does = [this](const std::string& sql) {
                if (const std::string wrong = server_.execute(sql); !wrong.empty())
                    qFatal("%s: %s", wrong.c_str(), sql.c_str());
            };
            place.asked = [this](const std::string& sql) {
                const auto answer = server_.query(sql);
                if (!answer.ok) qFatal("%s: %s", answer.error.c_str(), sql.c_str());
                return answer.cells.empty() ? "(none)" : answer.cells.front().value_or("(null)");
            };
            return place;
        }
        const QString path = folder_.filePath(QString::fromStdString(name + ".db"));
        place.address = path.toStdString();
        place.does = [path](const std::string& sql) { jollyrow::run(path, sql); };
        place.asked = [path](const std::string& sql) {
            sqlite3* db = nullptr;
            sqlite3_open(path.toUtf8().constData(), &db);
            const QString text = test::storedText(db, sql.c_str());
            sqlite3_close(db);
            return text.toStdString();
        };
        return place;
    }

  private Q_SLOTS:
    void initTestCase() {
        const std::string wrong = server_.start();
        QVERIFY2(wrong.empty(), wrong.c_str());
    }

    void theDatabaseIsAsBefore_data() {
        QTest::addColumn<bool>("onServer");
        QTest::newRow("SQLite") << false;
        QTest::newRow("PostgreSQL") << true;
    }
    void theDatabaseIsAsBefore() {
        QFETCH(bool, onServer);
        int came = 0;
        for (unsigned seed = 1; seed <= 16; ++seed) {
            std::mt19937 random(seed);
            Place here = place(onServer);
            MadeUp database(random, here);
            database.make();
            for (int round = 0; round < 4; ++round) {
                const std::int64_t id = 1 + static_cast<std::int64_t>(random() % kRows);
                const std::string before = database.dump();
                RecordWrite again = insertionOf(here, id);
                RecordWrite removal = writeTo(here, id);
                removal.change = RecordChange::Delete;
                const Outcome gone = written(here, removal);
                const auto* stored = std::get_if<StoredRecord>(&gone);
                if (!stored) {
                    QCOMPARE(database.dump(), before);
                    continue;
                }
                QVERIFY(database.dump() != before);
                QVERIFY(!stored->takenAlong || stored->takenAlong->isWhole());
                came += stored->takenAlong ? 1 : 0;
                again.bringsBack = stored->takenAlong;
                const Outcome back = written(here, again);
                if (const auto* problem = std::get_if<Problem>(&back)) QFAIL(problem->message.c_str());
                QCOMPARE(database.dump(), before);
            }
        }
        QVERIFY(came > 20);
    }

    void whatSomebodyHasChangedSinceStays_data() { theDatabaseIsAsBefore_data(); }
    void whatSomebodyHasChangedSinceStays() {
        QFETCH(bool, onServer);
        Place here = place(onServer);
        here.does("CREATE TABLE \"t 0\" (id INTEGER PRIMARY KEY, v TEXT)");
        here.does("CREATE TABLE line (id INTEGER PRIMARY KEY, t INTEGER REFERENCES \"t 0\" ON DELETE CASCADE)");
        here.does("CREATE TABLE note (id INTEGER PRIMARY KEY, t INTEGER REFERENCES \"t 0\" ON DELETE SET NULL)");
        here.does("INSERT INTO \"t 0\" VALUES (1, 'a'), (2, 'b')");
        here.does("INSERT INTO line VALUES (10, 1), (11, 1), (12, 2)");
        here.does("INSERT INTO note VALUES (20, 1), (21, 1), (22, 1), (23, NULL)");
        RecordWrite again = insertionOf(here, 1);
        RecordWrite removal = writeTo(here, 1);
        removal.change = RecordChange::Delete;
        const Outcome gone = written(here, removal);
        again.bringsBack = std::get<StoredRecord>(gone).takenAlong;
        QVERIFY(again.bringsBack);
        QVERIFY(again.bringsBack->isOf("line") && again.bringsBack->isOf("note") && !again.bringsBack->isOf("t 0"));
        // One is linked to another record since, one is deleted; they stay so.
        here.does("UPDATE note SET t = 2 WHERE id = 20; DELETE FROM note WHERE id = 21");
        // A line has the key of one that is to come back: nothing comes back.
        here.does("INSERT INTO line VALUES (11, 2)");
        const Outcome refused = written(here, again);
        const auto* problem = std::get_if<Problem>(&refused);
        QVERIFY(problem);
        QVERIFY2(
            QString::fromStdString(problem->message).startsWith("What was deleted with it cannot come back to line: "),
            problem->message.c_str());
        const auto lines = [&] {
            return here.asked(onServer ? "SELECT string_agg(id || ':' || t, ',' ORDER BY id) FROM line"
                                       : "SELECT group_concat(id || ':' || t) FROM (SELECT * FROM line ORDER BY id)");
        };
        QCOMPARE(lines(), std::string("11:2,12:2"));
        QCOMPARE(here.asked("SELECT count(*) FROM \"t 0\""), std::string("1"));
        here.does("DELETE FROM line WHERE id = 11");
        QVERIFY(std::holds_alternative<StoredRecord>(written(here, again)));
        QCOMPARE(lines(), std::string("10:1,11:1,12:2"));
        QCOMPARE(here.asked("SELECT count(*) FROM note WHERE t = 1 AND id = 22"), std::string("1"));
        QCOMPARE(here.asked("SELECT t FROM note WHERE id = 20"), std::string("2"));
        QCOMPARE(here.asked("SELECT count(*) FROM note"), std::string("3"));
        // A table that is another one by now.
        const Outcome once = written(here, removal);
        again.bringsBack = std::get<StoredRecord>(once).takenAlong;
        here.does("ALTER TABLE line RENAME TO entries");
        const Outcome lost = written(here, again);
        QVERIFY(std::holds_alternative<Problem>(lost));
        QCOMPARE(here.asked("SELECT count(*) FROM \"t 0\""), std::string("1"));
    }

    /// A record and one that it takes along are both deleted, in any order; one that is gone for another reason is a
    /// conflict as ever, and nothing is done then.
    void bothAreDeleted_data() { theDatabaseIsAsBefore_data(); }
    void bothAreDeleted() {
        QFETCH(bool, onServer);
        for (const Atomicity atomicity : {Atomicity::AllOrNothing, Atomicity::InOrder})
            for (const bool isLost : {false, true})
                for (const bool parentFirst : {false, true}) {
                    Place here = place(onServer);
                    here.does("CREATE TABLE \"t 0\" (id INTEGER PRIMARY KEY, v TEXT)");
                    here.does(
                        "CREATE TABLE line (id INTEGER PRIMARY KEY, t INTEGER REFERENCES \"t 0\" ON DELETE CASCADE)");
                    here.does("INSERT INTO \"t 0\" VALUES (1, 'a'), (2, 'b')");
                    here.does("INSERT INTO line VALUES (10, 1), (11, 1), (12, 2)");
                    RecordWrite parent = writeTo(here, 1);
                    parent.change = RecordChange::Delete;
                    std::vector<RecordWrite> lines;
                    for (const std::int64_t id : {10, 12}) {
                        RecordWrite line;
                        line.schema = *here.source()->schema({"line", ""});
                        line.keyFields = {*line.schema->find("id")};
                        line.key = {id};
                        line.change = RecordChange::Delete;
                        lines.push_back(std::move(line));
                    }
                    if (isLost) here.does("DELETE FROM line WHERE id = 12");
                    std::vector<RecordWrite> all = lines;
                    all.insert(parentFirst ? all.begin() : all.end(), parent);
                    const auto answer = here.store()->write(all, atomicity, Cancel());
                    QVERIFY(answer.ok());
                    const auto stored = std::count_if(answer->begin(), answer->end(), [](const Outcome& outcome) {
                        return std::holds_alternative<StoredRecord>(outcome);
                    });
                    QCOMPARE(stored, isLost ? 0 : 3);
                    if (isLost) {
                        const auto* conflict = std::get_if<Conflict>(&(*answer)[parentFirst ? 2 : 1]);
                        QVERIFY(conflict && conflict->isGone());
                    }
                    QCOMPARE(here.asked("SELECT count(*) FROM line"), std::string(isLost ? "2" : "0"));
                    if (isLost) continue;
                    const auto& along = std::get<StoredRecord>((*answer)[parentFirst ? 0 : 2]).takenAlong;
                    QVERIFY(along && along->isOf("line"));  // 11, and 11 alone
                    RecordWrite again = writeTo(here, 1);
                    again.key.clear();
                    again.change = RecordChange::Insert;
                    again.changes = {{*again.schema->find("id"), Empty{}, Value(std::int64_t{1})}};
                    again.bringsBack = along;
                    QVERIFY(std::holds_alternative<StoredRecord>(written(here, again)));
                    QCOMPARE(here.asked("SELECT sum(id) FROM line"), std::string("11"));
                }
    }

    void tooMuchIsNotKept_data() { theDatabaseIsAsBefore_data(); }
    void tooMuchIsNotKept() {
        QFETCH(bool, onServer);
        Place here = place(onServer);
        here.does("CREATE TABLE \"t 0\" (id INTEGER PRIMARY KEY, v TEXT)");
        here.does("CREATE TABLE line (id INTEGER PRIMARY KEY, t INTEGER REFERENCES \"t 0\" ON DELETE CASCADE)");
        here.does("CREATE INDEX at ON line (t)");
        here.does("INSERT INTO \"t 0\" VALUES (1, 'a')");
        here.does(onServer ? "INSERT INTO line SELECT i, 1 FROM generate_series(1, 100001) AS i"
                           : "WITH RECURSIVE c(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM c WHERE i < 100001) INSERT "
                             "INTO line SELECT i, 1 FROM c");
        RecordWrite removal = writeTo(here, 1);
        removal.change = RecordChange::Delete;
        const Outcome gone = written(here, removal);
        const auto* stored = std::get_if<StoredRecord>(&gone);
        QVERIFY(stored && stored->takenAlong && !stored->takenAlong->isWhole());
        QCOMPARE(here.asked("SELECT count(*) FROM line"), std::string("0"));
        // Nor is it brought back in part by somebody who asks for it all the same.
        RecordWrite again = writeTo(here, 1);
        again.key.clear();
        again.change = RecordChange::Insert;
        again.changes = {{*again.schema->find("id"), Empty{}, Value(std::int64_t{1})}};
        again.bringsBack = stored->takenAlong;
        QVERIFY(std::holds_alternative<Problem>(written(here, again)));
        QCOMPARE(here.asked("SELECT count(*) FROM \"t 0\""), std::string("0"));
    }

    /// Rows that this role may not read, or that are hidden from it, go all the same; what is not known whole is said
    /// to be so.
    void whatMayNotBeReadIsNotWhole_data() {
        QTest::addColumn<QString>("sql");
        QTest::newRow("no privilege") << "SELECT 1";
        QTest::newRow("row security")
            << "GRANT ALL ON line TO clerk; ALTER TABLE line ENABLE ROW LEVEL SECURITY; CREATE "
               "POLICY few ON line USING (id < 6)";
    }
    void whatMayNotBeReadIsNotWhole() {
        QFETCH(QString, sql);
        Place here = place(true);
        const std::string schema = fmt::format("d{}", made_ - 1);
        server_.execute("CREATE ROLE clerk LOGIN");
        here.does("ALTER ROLE clerk SET search_path = " + schema);
        here.does("CREATE TABLE \"t 0\" (id INTEGER PRIMARY KEY, v TEXT)");
        here.does("CREATE TABLE line (id INTEGER PRIMARY KEY, t INTEGER REFERENCES \"t 0\" ON DELETE CASCADE)");
        here.does("INSERT INTO \"t 0\" VALUES (1, 'a'); INSERT INTO line VALUES (5, 1), (6, 1)");
        here.does("GRANT USAGE ON SCHEMA " + schema + " TO clerk; GRANT ALL ON \"t 0\" TO clerk");
        here.does(sql.toStdString());
        here.address = server_.address("postgres", "clerk");
        RecordWrite removal = writeTo(here, 1);
        removal.change = RecordChange::Delete;
        const Outcome gone = written(here, removal);
        const auto* stored = std::get_if<StoredRecord>(&gone);
        if (const auto* problem = std::get_if<Problem>(&gone)) QFAIL(problem->message.c_str());
        QVERIFY(stored && stored->takenAlong && !stored->takenAlong->isWhole());
        QCOMPARE(here.asked("SELECT count(*) FROM line"), std::string("0"));
    }
};

QTEST_GUILESS_MAIN(TakenAlongTest)
#include "taken_along_test.moc"
