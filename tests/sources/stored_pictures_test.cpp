// SPDX-License-Identifier: MIT
// Pictures that stay in the database: which fields do, what their columns hold, how one is read and written by the key
// of its record, also behind another writer's back.
#include <QtTest>

#include "core/design/make_design.h"
#include "core/session/session.h"
#include "tests/pictures/bytes.h"
#include "tests/session/inbox.h"
#include "tests/sources/database.h"

using namespace jollyrow;

namespace {

std::string hex(const std::string& bytes) { return QByteArray::fromStdString(bytes).toHex().toStdString(); }

/// What the database itself says.
QString asked(const QString& path, const std::string& sql) {
    sqlite3* db = nullptr;
    sqlite3_stmt* statement = nullptr;
    sqlite3_open(path.toUtf8().constData(), &db);
    QString out = QStringLiteral("error");
    if (sqlite3_prepare_v2(db, sql.c_str(), -1, &statement, nullptr) == SQLITE_OK &&
        sqlite3_step(statement) == SQLITE_ROW)
        out = QString::fromUtf8(reinterpret_cast<const char*>(sqlite3_column_text(statement, 0)));
    sqlite3_finalize(statement);
    sqlite3_close(db);
    return out;
}

}  // namespace

class StoredPicturesTest : public QObject {
    Q_OBJECT
    QTemporaryDir folder_;
    QString path_;
    Inbox inbox_;
    std::unique_ptr<Session> session_;
    int loads_ = 0;
    std::vector<CellEdit> answers_;
    std::string small_ = test::pngHeader(2, 3), large_ = test::pngHeader(9, 9) + std::string(300'000, 'x');

    bool until(const std::function<bool()>& done) {
        return QTest::qWaitFor([&] {
            inbox_.pump();
            return done();
        });
    }
    TableSchema schemaOf(const Binding& binding) { return *(*openSource(path_.toStdString()))->schema(binding); }
    bool isUnread(const Binding& binding, const char* field) {
        const TableSchema schema = schemaOf(binding);
        return schema.field(*schema.find(field)).unread;
    }
    void open(const char* table, std::vector<std::string> related = {}) {
        loads_ = 0;
        answers_.clear();
        SessionListener listener;
        listener.onLoaded = [this](const Result<void>&) { ++loads_; };
        listener.onEditAnswered = [this](SourceRow, FieldIndex, const CellEdit& edit) { answers_.push_back(edit); };
        session_ = std::make_unique<Session>([this](auto call) { inbox_.post(std::move(call)); }, listener);
        Design design =
            designFor(schemaOf({table, "", std::move(related)}), {"sqlite", path_.toStdString(), table, ""});
        for (ColumnDesign& column : design.columns) column.shown = true;
        QVERIFY(session_->open(design, path_.toStdString()).ok());
        QVERIFY(until([this] { return loads_ == 1; }));
    }
    FieldIndex field(const char* name) { return *session_->schema().find(name); }

  private Q_SLOTS:
    void init() {
        static int n = 0;
        path_ = folder_.filePath(QStringLiteral("boats%1.db").arg(n++));
        run(path_,
            "CREATE TABLE boats (id INTEGER PRIMARY KEY, name TEXT, picture BLOB, scan BLOB, token BLOB, papers BLOB);"
            "CREATE TABLE moorings (code TEXT PRIMARY KEY, boat INTEGER REFERENCES boats(id), photo BLOB) WITHOUT "
            "ROWID;"
            "CREATE TABLE keyed (photo_id BLOB PRIMARY KEY, note TEXT); CREATE VIEW seen AS SELECT * FROM boats;"
            "INSERT INTO boats VALUES (1, 'Auk', x'" +
                hex(small_) + "', x'" + hex(large_) +
                "', x'0102', x'0a0b'),"
                "(2, 'Tern', NULL, NULL, x'0304', NULL), (3, 'Plover', x'', x'" +
                hex(small_) +
                "', NULL, NULL),"
                "(4, 'Dunlin', '<svg/>', NULL, NULL, NULL), (5, 'Knot', 12, NULL, NULL, NULL);"
                "INSERT INTO moorings VALUES ('a', 1, x'" +
                hex(small_) +
                "'), ('b', 2, NULL), ('c', 3, NULL), ('d', NULL, NULL);"
                "INSERT INTO keyed VALUES (x'01', 'one'), (x'02', 'two')");
    }
    void cleanup() { session_.reset(); }

    void picturesOfRecordsWithAKeyStayInTheDatabase() {
        QVERIFY(isUnread({"boats", ""}, "picture"));
        QVERIFY(isUnread({"boats", ""}, "scan"));  // by what is in it
        QVERIFY(!isUnread({"boats", ""}, "token"));
        QVERIFY(!isUnread({"boats", ""}, "papers"));
        QVERIFY(isUnread({"moorings", "", {"boat.picture"}}, "boat.picture"));
        QVERIFY(isUnread({"moorings", ""}, "photo"));
        QVERIFY(!isUnread({"keyed", ""}, "photo_id"));
        QVERIFY(!isUnread({"seen", ""}, "picture"));
        QVERIFY(!isUnread({"", "SELECT * FROM boats"}, "picture"));
        // A name alone is believed only as long as no value speaks against it.
        run(path_,
            "CREATE TABLE named (id INTEGER PRIMARY KEY, image_hash BLOB, photo BLOB);"
            "INSERT INTO named VALUES (1, x'00112233445566778899', NULL), (2, x'ffeeddccbbaa9988', NULL)");
        QVERIFY(!isUnread({"named", ""}, "image_hash"));
        QVERIFY(isUnread({"named", ""}, "photo"));
        Binding whole{"boats", ""};
        whole.readsPictures = true;
        QVERIFY(!isUnread(whole, "picture"));
    }

    /// Empties are empty, all others say how long they are, as SQLite's own length does.
    void columnsHoldHowLongTheyAre() {
        open("boats");
        const auto& snapshot = *session_->snapshot();
        for (const char* name : {"picture", "scan"})
            for (std::uint32_t row = 0; row < 5; ++row) {
                const std::string says =
                    asked(path_, "SELECT ifnull(length(CAST(" + std::string(name) +
                                     " AS BLOB)), 'none') FROM boats WHERE id = " + std::to_string(row + 1))
                        .toStdString();
                const Value value = snapshot.value(SourceRow{row}, field(name));
                if (says == "none")
                    QVERIFY(isEmpty(value));
                else
                    QCOMPARE(std::to_string(std::get<Unread>(value).bytes), says);
            }
        QCOMPARE(snapshot.value(SourceRow{0}, field("token")), Value(Bytes{std::string("\x01\x02")}));
        QVERIFY(snapshot.table->column(field("scan"))->byteSize() < 400);  // not the pictures themselves
        std::string text;
        appendDisplay(text, snapshot.value(SourceRow{0}, field("scan")), {.use = Use::Picture});
        QCOMPARE(text, std::string("picture, 300.0 kB"));
        const Binding whole{"boats", "", {}, {}, {}, true};
        QCOMPARE(plain(**loadAll(path_, whole), 0, "picture"), hex(small_));
    }

    void oneIsReadByTheKeyOfItsRecord() {
        open("boats");
        QCOMPARE(*session_->records().bytesReader(SourceRow{0}, field("scan"))(), Value(Bytes{large_}));
        QCOMPARE(*session_->records().bytesReader(SourceRow{3}, field("picture"))(), Value(Bytes{"<svg/>"}));
        QVERIFY(isEmpty(*session_->records().bytesReader(SourceRow{1}, field("picture"))()));
        const auto reader = session_->records().bytesReader(SourceRow{2}, field("scan"));
        run(path_, "DELETE FROM boats WHERE id = 3");
        QCOMPARE(reader().error().code, ErrorCode::NotFound);
        open("moorings", {"boat.picture"});
        QCOMPARE(*session_->records().bytesReader(SourceRow{0}, field("photo"))(), Value(Bytes{small_}));
        QCOMPARE(*session_->records().bytesReader(SourceRow{0}, field("boat.picture"))(), Value(Bytes{small_}));
        QVERIFY(isEmpty(*session_->records().bytesReader(SourceRow{3}, field("boat.picture"))()));
    }

    void aPictureIsWrittenAndEmptied() {
        open("boats");
        session_->records().edit(SourceRow{0}, field("picture"), Bytes{large_});
        QCOMPARE(session_->snapshot()->value(SourceRow{0}, field("picture")), Value(Bytes{large_}));
        QCOMPARE(*session_->records().bytesReader(SourceRow{0}, field("picture"))(), Value(Bytes{large_}));
        session_->records().edit(SourceRow{2}, field("scan"), Empty{});
        session_->records().edit(SourceRow{1}, field("picture"), Bytes{small_});
        QVERIFY(until([this] { return answers_.size() == 3; }));
        for (const CellEdit& edit : answers_) QCOMPARE(edit.message, std::string());
        QCOMPARE(asked(path_, "SELECT hex(picture) FROM boats WHERE id = 1").toLower().toStdString(), hex(large_));
        QCOMPARE(asked(path_, "SELECT scan IS NULL FROM boats WHERE id = 3"), QString("1"));
        QCOMPARE(asked(path_, "SELECT hex(picture) FROM boats WHERE id = 2").toLower().toStdString(), hex(small_));
        // A second one builds on the first; after a reload there are lengths again.
        session_->records().edit(SourceRow{0}, field("picture"), Bytes{small_});
        QVERIFY(until([this] { return answers_.size() == 4; }));
        QCOMPARE(answers_.back().state, EditState::Saved);
        session_->reload();
        QVERIFY(until([this] { return loads_ == 2; }));
        QCOMPARE(session_->snapshot()->value(SourceRow{0}, field("picture")), Value(Unread{small_.size(), 0}));
    }

    /// What somebody else has put there meanwhile is not overwritten: told by its length, and once the picture was seen
    /// by its bytes.
    void anotherWritersPictureIsNotOverwritten() {
        open("boats");
        run(path_, "UPDATE boats SET picture = x'" + hex(large_) + "' WHERE id = 1");
        session_->records().edit(SourceRow{0}, field("picture"), Bytes{small_ + "mine"});
        QVERIFY(until([this] { return answers_.size() == 1; }));
        QCOMPARE(answers_.back().state, EditState::Conflict);
        QVERIFY(!answers_.back().message.empty());
        QCOMPARE(asked(path_, "SELECT hex(picture) FROM boats WHERE id = 1").toLower().toStdString(), hex(large_));

        open("boats");
        session_->records().noteRead(session_->snapshot()->epoch, SourceRow{2}, field("scan"), digestOf(small_));
        std::string sameLength = small_;
        sameLength.back() ^= 1;
        run(path_, "UPDATE boats SET scan = x'" + hex(sameLength) + "' WHERE id = 3");
        session_->records().edit(SourceRow{2}, field("scan"), Empty{});
        QVERIFY(until([this] { return answers_.size() == 1; }));
        QCOMPARE(answers_.back().state, EditState::Conflict);
        QCOMPARE(asked(path_, "SELECT hex(scan) FROM boats WHERE id = 3").toLower().toStdString(), hex(sameLength));
    }

    void whatWasNeverReadIsNotWrittenBack() {
        open("boats");
        auto store = *openStore(path_.toStdString());
        RecordWrite write{
            session_->schema(), {std::int64_t{2}}, false, {field("id")}, {{field("picture"), Empty{}, Unread{5, 0}}}};
        const RecordWrite* one = &write;
        const auto outcome = store->write(std::span(one, 1), Atomicity::EachRecord, Cancel());
        QVERIFY(outcome.ok());
        QVERIFY(std::holds_alternative<Problem>(outcome->front()));
        QCOMPARE(asked(path_, "SELECT picture IS NULL FROM boats WHERE id = 2"), QString("1"));
    }

    void binaryDataIsReadWhenAFaceNamesIt() {
        open("boats");
        Design design = session_->design();
        std::erase_if(design.columns, [](const ColumnDesign& c) { return c.field == "picture" || c.field == "scan"; });
        session_->setDesign(design);
        QVERIFY(until([this] { return !session_->isLoading(); }));
        design.faces = {{"Boat", face::row({face::picture("picture"), face::field()})}};
        design.column("name")->face = "Boat";
        session_->setDesign(design);
        QVERIFY(
            until([this] { return !session_->isLoading() && session_->snapshot()->table->column(field("picture")); }));
        FaceContent content;
        FaceReader reader(*session_->snapshot(), session_->plan().columns[1].face);
        reader.read(SourceRow{0}, content);
        QVERIFY(!content.isPending);
        QVERIFY(content.parts[1].isShown);
        reader.read(SourceRow{1}, content);
        QVERIFY(!content.parts[1].isShown);
    }
};

QTEST_GUILESS_MAIN(StoredPicturesTest)
#include "stored_pictures_test.moc"
