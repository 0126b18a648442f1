// SPDX-License-Identifier: MIT
#pragma once
// A session on a small database file of its own, in tests without a window.

#include <QtTest>

#include <sqlite3.h>

#include <functional>
#include <memory>

#include "core/design/make_design.h"
#include "core/session/session.h"
#include "tests/session/inbox.h"
#include "tests/stored_text.h"

namespace jollyrow {

class SessionFixture {
  public:
    explicit SessionFixture(const char* sql, std::string table = "jobs") : table_(std::move(table)) { run(sql); }

    Design design() const {
        const auto source = openSource(path());
        return designFor(*(*source)->schema({table_, ""}), {"sqlite", path(), table_, ""});
    }
    /// Anew, with its records read.
    bool open(const Design& design) {
        SessionListener listener;
        listener.onLoaded = [this](const Result<void>& result) {
            ++loads;
            if (!result) failures += QString::fromStdString(result.error().message);
        };
        listener.onFailure = [this](const Error& error) { failures += QString::fromStdString(error.message) + u'\n'; };
        listener.onRecordAnswered = [this](const RecordJournal::Answered& answer) { answers.push_back(answer); };
        listener.onDraftsLeft = [this] { ++draftsLeft; };
        session = std::make_unique<Session>([this](std::function<void()> call) { inbox.post(std::move(call)); },
                                            std::move(listener));
        session->drafts().setFolder(drafts);
        const int before = loads;
        const auto opened = store ? session->open(design, *openSource(path()), store) : session->open(design, path());
        return opened.ok() && until([&] { return loads > before; });
    }
    bool open(Saving saving = Saving::EachCell) {
        Design made = design();
        made.grid.saving = saving;
        return open(made);
    }
    bool reload() {
        const int before = loads;
        session->reload();
        return until([&] { return loads > before && !session->isLoading(); });
    }
    bool until(const std::function<bool()>& reached, int mostMs = 20000) {
        QElapsedTimer timer;
        timer.start();
        while (timer.elapsed() < mostMs) {
            inbox.pump();
            if (reached()) return true;
            QThread::msleep(1);
        }
        return false;
    }
    /// Nothing is on its way, and what is shown is computed.
    bool settled() {
        return until([&] {
            return session->snapshot()->edits->count(EditState::Saving) == 0 && !session->isLoading() &&
                   session->drafts().isKept();
        });
    }
    FieldIndex field(const char* name) const { return *session->schema().find(name); }
    Value value(SourceRow row, const char* name) const { return session->snapshot()->value(row, field(name)); }
    SourceRow row(std::int64_t key) const { return session->rowOf({Value(key)}).value_or(kNoRow); }
    EditState state(SourceRow row, const char* name) const {
        const CellEdit* edit = session->snapshot()->edits->find(row, field(name));
        return edit ? edit->state : EditState::Saved;
    }
    /// The keys shown, in order.
    QString shown(const char* name = "number") {
        QStringList all;
        const Snapshot& snapshot = *session->snapshot();
        for (std::int64_t i = 0; i < snapshot.recordCount(); ++i) {
            const Value value = snapshot.value(snapshot.record(i), field(name));
            const auto* number = std::get_if<std::int64_t>(&value);
            const auto* text = std::get_if<std::string>(&value);
            all << (number ? QString::number(*number) : text ? QString::fromStdString(*text) : QStringLiteral("-"));
        }
        return all.join(u',');
    }
    bool shows(const QString& keys) {
        return until([&] { return shown() == keys; }, 30'000);
    }

    void run(const char* sql) {
        sqlite3* db = connection();
        char* message = nullptr;
        if (sqlite3_exec(db, sql, nullptr, nullptr, &message) != SQLITE_OK) qFatal("%s", message);
        sqlite3_close(db);
    }
    QString stored(const char* sql) {
        sqlite3* db = connection();
        const QString text = test::storedText(db, sql);
        sqlite3_close(db);
        return text;
    }
    sqlite3* connection() {
        sqlite3* db = nullptr;
        sqlite3_open(path().c_str(), &db);
        sqlite3_busy_timeout(db, 30'000);
        sqlite3_exec(db, "PRAGMA foreign_keys = ON", nullptr, nullptr, nullptr);
        return db;
    }
    std::string path() const { return folder.filePath("yard.db").toStdString(); }

    QTemporaryDir folder;
    std::string drafts;  ///< "" = none are kept
    StoreOpener store;   ///< in place of the file's own
    Inbox inbox;
    std::unique_ptr<Session> session;
    std::vector<RecordJournal::Answered> answers;
    int loads = 0, draftsLeft = 0;
    QString failures;

  private:
    std::string table_;
};

inline constexpr const char* kJobs =
    "CREATE TABLE vessels (id INTEGER PRIMARY KEY, name TEXT NOT NULL);"
    "INSERT INTO vessels VALUES (1, 'Sandpiper'), (2, 'Brisk Molly'), (3, 'Wren');"
    "CREATE TABLE jobs (number INTEGER PRIMARY KEY, work VARCHAR(20) NOT NULL, hours DECIMAL(6,2) DEFAULT 1.5 "
    "CHECK (hours >= 0), tag TEXT UNIQUE, vessel INTEGER REFERENCES vessels(id), noted TEXT,"
    " twice DECIMAL(8,2) GENERATED ALWAYS AS (hours * 2));"
    "CREATE TRIGGER note AFTER INSERT ON jobs BEGIN UPDATE jobs SET noted = 'made' WHERE number = NEW.number; END;"
    "CREATE TABLE lines (id INTEGER PRIMARY KEY, job INTEGER NOT NULL REFERENCES jobs(number) ON DELETE CASCADE);"
    "CREATE TABLE claims (id INTEGER PRIMARY KEY, job INTEGER REFERENCES jobs(number));"
    "INSERT INTO jobs (number, work, hours, tag, vessel) VALUES (10, 'rewire', 4, 'a', 1), (20, 'caulk', 8, 'b', 2),"
    " (30, 'paint', 2, 'c', NULL), (40, 'step mast', 16, NULL, 3);"
    "INSERT INTO lines (job) VALUES (20), (20), (40); INSERT INTO claims (job) VALUES (10);";

}  // namespace jollyrow
