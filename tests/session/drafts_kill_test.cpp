// SPDX-License-Identifier: MIT
// A process killed at any moment while one types, inserts, deletes and saves: what it had been told is saved is in the
// database, what it had been told is kept is in the database or offered again, and taking that up doubles nothing.
// JOLLYROW_KILLS says how many times (./jolly kill 1000).
#include "tests/session/killed_sessions.h"
#include "tests/turns.h"

using namespace jollyrow;

class DraftsKillTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void nothingKeptIsLostAndNothingDoubled() {
        bool isNumber = false;
        const int asked = qEnvironmentVariableIntValue("JOLLYROW_KILLS", &isNumber);
        std::mt19937 dice(isNumber ? std::random_device()() : 5);
        killAndJudge(
            isNumber ? asked : test::turns(60), dice, [](const QTemporaryDir&) {}, [](const QTemporaryDir&) {});
    }
};

QTEST_APPLESS_MAIN(DraftsKillTest)
#include "drafts_kill_test.moc"
