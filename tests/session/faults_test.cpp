// SPDX-License-Identifier: MIT
// A database that cannot be written for a while: locked for half a minute, without permission, on a full disk. It is
// said in words, nothing that was typed is lost, the window's thread never waits, and what is tried again is saved
// once.
#include <QtTest>

#include <sys/resource.h>
#include <sys/stat.h>
#include <unistd.h>
#include <csignal>

#include "tests/session/session_fixture.h"

using namespace jollyrow;

namespace {

Value text(const std::string& value) { return value; }

/// Everybody may write, and for a moment one is somebody who needs to be allowed to: root may do anything.
class AsNobody {
  public:
    explicit AsNobody(const QString& folder) {
        chmod(folder.toLocal8Bit().constData(), 0777);
        chmod((folder + "/yard.db").toLocal8Bit().constData(), 0666);
        isRoot_ = geteuid() == 0;
        if (isRoot_) isOther_ = seteuid(65534) == 0;
    }
    ~AsNobody() { back(); }
    bool isMeant() const { return !isRoot_ || isOther_; }
    /// Changes what is allowed, as the owner.
    void allow(const QString& path, mode_t mode) {
        if (isOther_ && seteuid(0) != 0) qFatal("not root again");
        if (chmod(path.toLocal8Bit().constData(), mode) != 0) qFatal("no such file");
        if (isOther_ && seteuid(65534) != 0) qFatal("not nobody again");
    }

  private:
    void back() {
        if (isOther_ && seteuid(0) != 0) qFatal("not root again");
        isOther_ = false;
    }
    bool isRoot_ = false, isOther_ = false;
};

/// No file may become longer than this, as on a full disk.
class FullDisk {
  public:
    explicit FullDisk(rlim_t bytes) {
        std::signal(SIGXFSZ, SIG_IGN);
        getrlimit(RLIMIT_FSIZE, &before_);
        rlimit now = before_;
        now.rlim_cur = bytes;
        setrlimit(RLIMIT_FSIZE, &now);
    }
    ~FullDisk() { setrlimit(RLIMIT_FSIZE, &before_); }

  private:
    rlimit before_{};
};

}  // namespace

class FaultsTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void init() {
        f_ = std::make_unique<SessionFixture>(kJobs);
        f_->drafts = f_->folder.filePath("state").toStdString();
    }
    void cleanup() { f_.reset(); }

    void lockedForHalfAMinute() {
        QVERIFY(f_->open());
        sqlite3* other = f_->connection();
        QCOMPARE(sqlite3_exec(other, "BEGIN EXCLUSIVE", nullptr, nullptr, nullptr), SQLITE_OK);
        QElapsedTimer locked, call;
        locked.start();
        qint64 longest = 0;
        const auto timed = [&](const auto& work) {
            call.start();
            work();
            longest = std::max(longest, call.elapsed());
        };
        SourceRow made{};
        timed([&] { session().records().edit(f_->row(10), f_->field("work"), text("one")); });
        timed([&] { session().records().edit(f_->row(20), f_->field("work"), text("two")); });
        timed([&] { session().records().remove({f_->row(30)}); });
        timed([&] {
            made = *session().records().insert({{f_->field("work"), text("new")}});
            session().records().leave(made);
        });
        // Meanwhile one goes on typing, and it is said, and kept, that it is not saved.
        int typed = 0;
        while (locked.elapsed() < 30'000) {
            timed([&] { f_->inbox.pump(); });
            timed([&] { session().records().edit(f_->row(40), f_->field("work"), text("w" + std::to_string(++typed))); });
            QThread::msleep(250);
        }
        QVERIFY2(longest < 500, qPrintable(QString("something took %1 ms").arg(longest)));
        QVERIFY(f_->until([&] { return f_->state(f_->row(10), "work") == EditState::Refused; }, 60'000));
        const CellEdit* edit = session().snapshot()->edits->find(f_->row(10), f_->field("work"));
        QVERIFY2(edit->message.find("locked by another program") != std::string::npos, edit->message.c_str());
        QCOMPARE(f_->value(f_->row(10), "work"), text("one"));
        QVERIFY(f_->until([&] { return session().drafts().isKept(); }, 60'000));
        QCOMPARE(sqlite3_exec(other, "ROLLBACK", nullptr, nullptr, nullptr), SQLITE_OK);
        sqlite3_close(other);
        QVERIFY(f_->until([&] { return session().snapshot()->edits->count(EditState::Saving) == 0; }, 120'000));
        session().records().saveAll();
        QVERIFY(f_->settled());
        QCOMPARE(session().records().unsaved(), std::size_t{0});
        QCOMPARE(f_->stored("SELECT group_concat(work) FROM (SELECT work FROM jobs ORDER BY number)"),
                 QString("one,two,w%1,new").arg(typed));
        QVERIFY(f_->reload());
        QCOMPARE(f_->shown("work"), QString("one,two,w%1,new").arg(typed));
    }

    void permissionIsTakenAway() {
        AsNobody nobody(f_->folder.path());
        if (!nobody.isMeant()) QSKIP("Another user cannot be taken on here.");
        QVERIFY(f_->open());
        session().records().edit(f_->row(10), f_->field("work"), text("before"));
        QVERIFY(f_->settled());
        QCOMPARE(session().records().unsaved(), std::size_t{0});
        nobody.allow(f_->folder.filePath("yard.db"), 0444);
        nobody.allow(f_->folder.path(), 0555);
        session().records().edit(f_->row(10), f_->field("work"), text("kept"));
        const auto made = session().records().insert({{f_->field("work"), text("new")}});
        session().records().leave(*made);
        QVERIFY(f_->until([&] { return f_->state(f_->row(10), "work") == EditState::Refused; }));
        const CellEdit* edit = session().snapshot()->edits->find(f_->row(10), f_->field("work"));
        QVERIFY2(
            edit->message.find("ermission") != std::string::npos || edit->message.find("written") != std::string::npos,
            edit->message.c_str());
        QVERIFY(f_->until([&] { return session().snapshot()->edits->count(EditState::Saving) == 0; }));
        QCOMPARE(f_->stored("SELECT work FROM jobs WHERE number = 10"), QString("before"));
        nobody.allow(f_->folder.path(), 0777);
        nobody.allow(f_->folder.filePath("yard.db"), 0666);
        QVERIFY(session().records().saveAll() > 0);
        QVERIFY(f_->settled());
        QCOMPARE(session().records().unsaved(), std::size_t{0});
        QCOMPARE(f_->stored("SELECT group_concat(work) FROM (SELECT work FROM jobs WHERE number = 10 OR number > 40 "
                            "ORDER BY number)"),
                 QString("kept,new"));
    }

    void aFullDisk() {
        QVERIFY(f_->open());
        session().records().edit(f_->row(20), f_->field("noted"), text("fits"));
        QVERIFY(f_->settled());
        const std::string large(300'000, 'x');
        {
            const FullDisk full(60'000);
            session().records().edit(f_->row(20), f_->field("noted"), text(large));
            session().records().edit(f_->row(10), f_->field("noted"), text(large));
            QVERIFY(f_->until([&] { return session().snapshot()->edits->count(EditState::Saving) == 0; }));
            QCOMPARE(f_->state(f_->row(20), "noted"), EditState::Refused);
            const CellEdit* edit = session().snapshot()->edits->find(f_->row(20), f_->field("noted"));
            QVERIFY2(edit->message.find("full") != std::string::npos || edit->message.find("room") != std::string::npos,
                     edit->message.c_str());
            QCOMPARE(f_->value(f_->row(20), "noted"), text(large));  // what was typed stands
            QCOMPARE(f_->stored("SELECT noted FROM jobs WHERE number = 20"), QString("fits"));
            QCOMPARE(f_->stored("PRAGMA integrity_check"), QString("ok"));
        }
        QVERIFY(session().records().saveAll() > 0);
        QVERIFY(f_->until([&] { return session().records().unsaved() == 0; }));
        QCOMPARE(f_->stored("SELECT count(*) FROM jobs WHERE length(noted) = 300000"), QString("2"));
    }

  private:
    Session& session() { return *f_->session; }
    std::unique_ptr<SessionFixture> f_;
};

QTEST_GUILESS_MAIN(FaultsTest)
#include "faults_test.moc"
