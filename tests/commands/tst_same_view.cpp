// SPDX-License-Identifier: MIT
// The command line and the session show the same: random designs on the boatyard, printed by `jollyrow rows` and
// written from a session's snapshot, byte for byte.
#include <QtTest>

#include <QProcess>

#include <random>

#include "core/design/design_file.h"
#include "core/design/make_design.h"
#include "core/exports/row_writer.h"
#include "core/session/session.h"
#include "tests/session/inbox.h"

using namespace jollyrow;

class SameViewTest : public QObject {
    Q_OBJECT
    QTemporaryDir folder_;
    QString database_ = folder_.filePath("yard.db");

    static QByteArray printed(const QStringList& arguments) {
        QProcess process;
        process.start(PROGRAM, arguments);
        process.waitForFinished(60'000);
        const QByteArray said = process.readAllStandardError();
        if (process.exitCode() != 0) qWarning("%s", said.constData());
        return process.readAllStandardOutput();
    }
    QByteArray written(const Design& design) const {
        Inbox inbox;
        bool loaded = false;
        SessionListener listener;
        listener.onLoaded = [&](const Result<void>&) { loaded = true; };
        Session session([&](std::function<void()> call) { inbox.post(std::move(call)); }, listener);
        if (!session.open(design, database_.toStdString()).ok()) return {};
        QElapsedTimer timer;
        timer.start();
        while (!loaded && timer.elapsed() < 20'000) {
            inbox.pump();
            QThread::msleep(1);
        }
        RowWriting writing;
        writing.format = *rowFormatFromName("csv");
        std::string out;
        const auto done = writeRows(
            *session.snapshot(), session.plan().columns, writing,
            [&](std::string_view text) {
                out += text;
                return Result<void>();
            },
            Cancel());
        return done ? QByteArray::fromStdString(out) : QByteArray();
    }
    static Design random(Design design, std::mt19937& random) {
        static constexpr const char* kConditions[] = {"hours > 4",
                                                      "status <> 'Done'",
                                                      "due_on IS NOT NULL",
                                                      "EXTRACT(MONTH FROM booked_on) IN (3, 4, 5)",
                                                      "twice BETWEEN 3 AND 30",
                                                      "CHAR_LENGTH(work) > 9"};
        static constexpr const char* kKeys[] = {"due_on", "hours", "status", "number", "work", "twice"};
        ColumnDesign twice;
        twice.field = "twice";
        twice.heading = "Twice";
        twice.rule = "hours * 2";
        design.columns.push_back(twice);
        for (unsigned n = random() % 3; n > 0; --n)
            design.filter.push_back({kConditions[random() % std::size(kConditions)], "", "", random() % 5 != 0});
        for (unsigned n = random() % 4; n > 0; --n)
            design.sort.push_back({kKeys[random() % std::size(kKeys)],
                                   random() % 2 ? Direction::Ascending : Direction::Descending,
                                   random() % 2 ? Empties::First : Empties::Last});
        std::shuffle(design.columns.begin(), design.columns.end(), random);
        for (ColumnDesign& column : design.columns) column.shown = column.shown && random() % 6 != 0;
        return design;
    }

  private Q_SLOTS:
    void initTestCase() {
        printed({"demo-data", "--jobs", "1500", "--seed", "4", database_});
        QVERIFY(QFile::exists(database_));
    }

    void bothShowTheSame() {
        const auto source = openSource(database_.toStdString());
        QVERIFY(source.ok());
        const Design plain =
            designFor(*(*source)->schema({"jobs", ""}), {"sqlite", database_.toStdString(), "jobs", ""});
        std::mt19937 seeds(11);
        int different = 0;
        std::set<QByteArray> outputs;
        for (int turn = 0; turn < 25; ++turn) {
            const Design design = random(plain, seeds);
            const QString file = folder_.filePath("one.jrow");
            QVERIFY(writeDesignFile(file.toStdString(), design).ok());
            const QByteArray line = printed({"rows", file, "--format", "csv"}), window = written(design);
            QVERIFY(!line.isEmpty());
            if (line != window) {
                ++different;
                qWarning() << turn << line.size() << window.size() << line.left(300) << window.left(300);
            }
            outputs.insert(line);
        }
        QCOMPARE(different, 0);
        QVERIFY(outputs.size() > 15);  // and the designs were not all alike
    }

    /// With more records than the session reads at a time, and figures whose like the window shows at the foot.
    void groupsAndFiguresAreTheSessions() {
        const QByteArray out = printed({"rows", database_, "--table", "jobs", "--group", "status", "--summary",
                                        "COUNT(*) AS n, SUM(hours) AS hours", "--limit", "0", "--format", "jsonl"});
        const auto source = openSource(database_.toStdString());
        Design design = designFor(*(*source)->schema({"jobs", ""}), {"sqlite", database_.toStdString(), "jobs", ""});
        design.groups.emplace_back().key.field = "status";
        Inbox inbox;
        Session session([&](std::function<void()> call) { inbox.post(std::move(call)); }, {});
        QVERIFY(session.open(design, database_.toStdString()).ok());
        QElapsedTimer timer;
        timer.start();
        while ((session.isLoading() || !session.snapshot()->grouped) && timer.elapsed() < 20'000) {
            inbox.pump();
            QThread::msleep(1);
        }
        QVERIFY(session.snapshot()->grouped);
        const GroupTree& tree = session.snapshot()->grouped->tree();
        const QList<QByteArray> lines = out.trimmed().split('\n');
        QCOMPARE(lines.size(), static_cast<qsizetype>(tree.nodes.size()) + 1);
        for (std::size_t n = 0; n < tree.nodes.size(); ++n)
            QVERIFY2(lines[static_cast<qsizetype>(n)].contains("\"count\":" +
                                                               QByteArray::number(qint64(tree.nodes[n].count))),
                     lines[static_cast<qsizetype>(n)].constData());
        QVERIFY(lines.last().contains("\"total\""));
    }
};

QTEST_GUILESS_MAIN(SameViewTest)
#include "tst_same_view.moc"
