// SPDX-License-Identifier: MIT
// Files of drafts: values of every type come back, damage costs a line and no more, a full disk costs nothing that was
// kept, and two sessions do not take each other's.
#include <QtTest>

#include <sys/resource.h>
#include <sys/stat.h>
#include <cmath>
#include <csignal>
#include <limits>

#include "core/editing/draft_file.h"
#include "core/editing/value_json.h"

using namespace jollyrow;

namespace {

KeptRecord record(const std::string& id, const Value& value, std::int64_t key = 1) {
    KeptRecord out;
    out.id = id;
    out.key = {key};
    out.cells = {{"work", value, std::string("before"), "label"}};
    out.when = 1'700'000'000;
    return out;
}

std::string random(std::mt19937& dice, std::size_t most) {
    std::string out(dice() % most, ' ');
    for (char& c : out) c = static_cast<char>(dice());
    return out;
}

}  // namespace

class DraftFileTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void init() { folder_ = std::make_unique<QTemporaryDir>(); }

    void valuesComeBack() {
        std::vector<Value> values = {Empty{},
                                     true,
                                     false,
                                     std::int64_t{0},
                                     std::numeric_limits<std::int64_t>::min(),
                                     std::numeric_limits<std::int64_t>::max(),
                                     0.0,
                                     -0.0,
                                     0.1,
                                     std::numeric_limits<double>::denorm_min(),
                                     std::numeric_limits<double>::infinity(),
                                     -std::numeric_limits<double>::max(),
                                     Decimal{-1250, 2},
                                     Decimal{std::numeric_limits<std::int64_t>::min(), 18},
                                     WideDecimal{Int128{-7} << 90, 30},
                                     std::string(),
                                     std::string("line\nend\ttab \"quoted\" \xc3\xa4"),
                                     std::string("broken \xff\xfe"),
                                     std::string("nul\0inside", 10),
                                     Date{-719162},
                                     Time{86'399'999'999},
                                     Timestamp{-5},
                                     Instant{123456789},
                                     Bytes{std::string("\x00\x01\xff", 3)},
                                     Bytes{},
                                     Unfit{"soon", Stored::Text},
                                     Unfit{"\xff", Stored::Blob},
                                     Unread{7, 99}};
        std::mt19937 dice(3);
        for (int i = 0; i < 500; ++i) {
            values.emplace_back(random(dice, 60));
            values.emplace_back(Bytes{random(dice, 60)});
            values.emplace_back(std::bit_cast<double>(std::uint64_t{dice()} << 32 | dice()));
        }
        for (const Value& value : values) {
            const auto back = valueFrom(jsonOf(value));
            QVERIFY(back);
            const auto* number = std::get_if<double>(&value);
            if (number && std::isnan(*number))
                QVERIFY(std::isnan(std::get<double>(*back)));
            else
                QVERIFY(*back == value);
        }
        for (const char* wrong : {"null", "1", "[]", "[\"d\"]", "[\"d\",1,99]", "[\"D\",99999999999]", "[\"x\",\"%\"]",
                                  "[\"r\",\"x\"]", "[\"w\",1,\"a\",2]", "[\"?\",1]", "[\"u\",\"a\",\"\",9]"})
            QVERIFY2(!valueFrom(nlohmann::json::parse(wrong)), wrong);
    }

    void whatIsKeptIsThereAgain() {
        KeptDrafts left;
        {
            auto file = open(left);
            QVERIFY(left.records.empty());
            QVERIFY(file.keep({record("1", std::string("one")), record("2", std::string("two"), 2)}).ok());
            QVERIFY(file.keep({record("1", std::string("newer"))}).ok());
            KeptRecord settled;
            settled.id = "2";
            QVERIFY(file.keep({settled}).ok());
            struct stat info {};
            QCOMPARE(stat(file.path().c_str(), &info), 0);
            QCOMPARE(static_cast<int>(info.st_mode & 0777), 0600);
            QCOMPARE(stat(folder_->path().toUtf8().constData(), &info), 0);
            QCOMPARE(static_cast<int>(info.st_mode & 0777), 0700);
        }
        auto next = open(left);
        QCOMPARE(left.records.size(), std::size_t{1});
        KeptRecord expected = record("0/1", std::string("newer"));
        QVERIFY(left.records[0] == expected);
        expected.cells.clear();
        QVERIFY(next.keep({expected}).ok());
        next.close();
        QCOMPARE(files(), 0);  // nothing unsaved, nothing left
    }

    void othersThatRunKeepTheirs() {
        KeptDrafts left;
        auto first = open(left);
        QVERIFY(first.keep({record("1", std::string("mine"))}).ok());
        auto second = open(left);
        QVERIFY(left.records.empty());
        auto other = DraftFile::open(folder_->path().toStdString(), "/other.db", "jobs", left);
        QVERIFY(other.ok() && left.records.empty());
        QVERIFY(second.keep({record("1", std::string("also mine"))}).ok());
        first = {};
        second = {};
        auto third = open(left);
        QCOMPARE(left.records.size(), std::size_t{2});
        QVERIFY(left.records[0].id != left.records[1].id);
    }

    void newRecordsKnowTheKeyTheyWereAboutToGet() {
        KeptDrafts left;
        {
            auto file = open(left);
            KeptRecord made = record("1", std::string("new"));
            made.change = RecordChange::Insert;
            made.key.clear();
            QVERIFY(file.keep({made}).ok());
            QVERIFY(file.noteMade("1", {std::int64_t{77}}).ok());
            QVERIFY(file.noteMade("unknown", {std::int64_t{1}}).ok());
            made.cells[0].value = std::string("typed on");
            QVERIFY(file.keep({made}).ok());
        }
        for (int again = 0; again < 2; ++again) {
            left = {};
            auto file = open(left);
            QCOMPARE(left.records.size(), std::size_t{1});
            QCOMPARE(left.records[0].made, RecordKey{Value(std::int64_t{77})});
            QVERIFY(left.records[0].cells[0].value == Value(std::string("typed on")));
        }
    }

    /// Any damage: what was kept before it and behind it stays, and nothing else comes.
    void damageCostsALineAndNoMore() {
        std::mt19937 dice(11);
        for (int turn = 0; turn < 40; ++turn) {
            folder_ = std::make_unique<QTemporaryDir>();
            KeptDrafts left;
            std::string path;
            {
                auto file = open(left);
                path = file.path();
                std::vector<KeptRecord> records;
                for (int i = 0; i < 12; ++i)
                    records.push_back(record(std::to_string(i), std::string("v" + std::to_string(i)), i));
                QVERIFY(file.keep(records).ok());
            }
            QFile file(QString::fromStdString(path));
            QVERIFY(file.open(QFile::ReadWrite));
            QByteArray bytes = file.readAll();
            const qsizetype header = bytes.indexOf('\n') + 1;
            const auto at = header + static_cast<qsizetype>(dice() % static_cast<std::size_t>(bytes.size() - header));
            switch (dice() % 3) {
                case 0: bytes[at] = static_cast<char>(bytes[at] ^ (1 << dice() % 7)); break;
                case 1: bytes.truncate(at); break;
                default: bytes.insert(at, QByteArray("\xff\0{", 3));
            }
            file.resize(0);
            file.seek(0);
            file.write(bytes);
            file.close();
            left = {};
            auto next = open(left);
            QVERIFY(next.isOpen());
            std::set<std::string> known;
            for (const KeptRecord& kept : left.records) {
                const std::string id = kept.id.substr(2);
                QVERIFY(kept.cells.size() == 1 && kept.cells[0].value == Value("v" + id));
                QVERIFY(known.insert(id).second);
            }
            const auto lines = static_cast<std::size_t>(bytes.mid(header, at - header).count('\n'));
            QVERIFY(known.size() >= lines);  // all before it
            QVERIFY(known.size() + left.unreadable >= 10 || bytes.size() <= at);
        }
    }

    /// The file grows with every change and is made small again.
    void theFileStaysSmall() {
        KeptDrafts left;
        std::string path;
        {
            auto file = open(left);
            path = file.path();
            const std::string much(20'000, 'x');
            for (int i = 0; i < 120; ++i)
                QVERIFY(file.keep({record("1", much + std::to_string(i)), record("2", std::string("two"))}).ok());
            QVERIFY(QFileInfo(QString::fromStdString(path)).size() < 2'000'000);
            KeptDrafts others;
            auto second = open(others);
            QVERIFY(others.records.empty());  // still locked after it was replaced
        }
        auto next = open(left);
        QCOMPARE(left.records.size(), std::size_t{2});
        QVERIFY(std::get<std::string>(left.records[0].cells[0].value).ends_with("119"));
    }

    /// The disk is full in the middle of a line: an error that says so, and all that was kept is.
    void aFullDiskLosesNothingThatWasKept() {
        KeptDrafts left;
        rlimit old{};
        getrlimit(RLIMIT_FSIZE, &old);
        signal(SIGXFSZ, SIG_IGN);
        std::size_t kept = 0;
        {
            auto file = open(left);
            const rlimit small{3000, old.rlim_max};
            setrlimit(RLIMIT_FSIZE, &small);
            Result<void> last;
            for (int i = 0; i < 100 && last.ok(); ++i) {
                last = file.keep({record(std::to_string(i), std::string(100, 'x'), i)});
                kept += last.ok() ? 1 : 0;
            }
            setrlimit(RLIMIT_FSIZE, &old);
            QVERIFY(!last.ok());
            QCOMPARE(last.error().code, ErrorCode::DiskFull);
            QVERIFY2(last.error().message.find("not safe") != std::string::npos, last.error().message.c_str());
            QVERIFY(kept > 3);
            QVERIFY(file.keep({record("late", std::string("there is room again"))}).ok());
        }
        auto next = open(left);
        QCOMPARE(left.records.size(), kept + 1);
        QCOMPARE(left.unreadable, std::size_t{0});
    }

    void aFolderThatCannotBeMadeIsSaid() {
        KeptDrafts left;
        const auto file = DraftFile::open(folder_->filePath("a").toStdString(), "s", "t", left);
        QVERIFY(file.ok());
        QFile blocking(folder_->filePath("file"));
        QVERIFY(blocking.open(QFile::WriteOnly));
        const auto wrong = DraftFile::open(folder_->filePath("file").toStdString(), "s", "t", left);
        QVERIFY(!wrong.ok() && wrong.error().message.find("file") != std::string::npos);
    }

  private:
    DraftFile open(KeptDrafts& left) {
        auto file = DraftFile::open(folder_->path().toStdString(), "/yard.db", "jobs", left);
        if (!file) qFatal("%s", file.error().message.c_str());
        return std::move(*file);
    }
    int files() const { return static_cast<int>(QDir(folder_->path()).entryList(QDir::Files).size()); }
    std::unique_ptr<QTemporaryDir> folder_;
};

QTEST_APPLESS_MAIN(DraftFileTest)
#include "draft_file_test.moc"
