// SPDX-License-Identifier: MIT
// Members of Qt's types: what a column shows of them, and what is written into them.
#include <QtTest>

#include <random>

#include "core/columns/column_builder.h"
#include "core/sources/objects/object_source.h"
#include "grid/api/qt_members.h"

using namespace jollyrow;

namespace {
struct Job {
    QString work;
    QDate due;
    QTime at;
    QDateTime seen;
    QByteArray photo;
};
}  // namespace

class QtMembersTest : public QObject {
    Q_OBJECT

    template <class T>
    static FieldSchema described() {
        FieldSchema field;
        ObjectValue<T>::describe(field);
        return field;
    }
    /// In a column and boxed it is the same; set, it is what it was.
    template <class T>
    static void goesRound(const T& from, T before = {}) {
        const FieldSchema field = described<T>();
        QVERIFY(!field.required);
        const Value value = ObjectValue<T>::value(from, field);
        ColumnChunk chunk;
        chunk.reset(field.type, field.scale, false);
        ObjectValue<T>::add(chunk, from, field);
        ColumnBuilder column(field);
        column.append(chunk);
        QVERIFY(column.share()->value(SourceRow{0}) == value);
        QVERIFY(ObjectValue<T>::set(before, value).ok());
        QCOMPARE(before, from);
    }

  private Q_SLOTS:
    void whateverTheyHoldGoesRound() {
        std::mt19937 random(4);
        const auto some = [&random](std::int64_t low, std::int64_t high) {
            return std::uniform_int_distribution<std::int64_t>(low, high)(random);
        };
        for (int i = 0; i < 500; ++i) {
            QString text;
            for (std::int64_t n = some(0, 9); n > 0; --n) text += QChar(static_cast<char16_t>(some(32, 0x2fff)));
            goesRound(text);
            goesRound(QDate::fromJulianDay(some(1721426, 5373484)));  // years 1 to 9999
            goesRound(QTime::fromMSecsSinceStartOfDay(static_cast<int>(some(0, 86'399'999))));
            goesRound(QDateTime::fromMSecsSinceEpoch(some(-9'000'000'000'000, 90'000'000'000'000), Qt::UTC));
            goesRound(QByteArray(static_cast<qsizetype>(some(0, 9)), static_cast<char>(some(0, 255))));
        }
        goesRound(QString());
        goesRound(QDate(), QDate(2026, 12, 1));
        goesRound(QTime(), QTime(9, 0));
        goesRound(QDateTime(), QDateTime::currentDateTime());
        goesRound(QByteArray(), QByteArray("x"));
        goesRound(QString::fromUtf8("Réparer la quille 修理 😀"));
        goesRound(QTime(0, 0));
    }

    void theDayIsTheDay() {
        QVERIFY(ObjectValue<QDate>::value(QDate(1970, 1, 1), {}) == Value(Date{0}));
        QVERIFY(ObjectValue<QDate>::value(QDate(2026, 2, 28), {}) == Value(Date{20'512}));
        QVERIFY(ObjectValue<QTime>::value(QTime(0, 0, 1), {}) == Value(Time{1'000'000}));
        QVERIFY(ObjectValue<QDateTime>::value(QDateTime(QDate(1970, 1, 1), QTime(1, 0), QTimeZone("Europe/Berlin")),
                                              {}) == Value(Instant{0}));
        QVERIFY(isEmpty(ObjectValue<QDate>::value(QDate(2026, 2, 30), {})));
    }

    /// A moment that is written keeps the zone that the application gave the member.
    void zonesStay() {
        const Value value = Instant{1'767'225'600'000'000};  // 2026-01-01 00:00 UTC
        for (const QDateTime& before : {QDateTime(QDate(2025, 7, 1), QTime(12, 0), QTimeZone("Europe/Berlin")),
                                        QDateTime(QDate(2025, 7, 1), QTime(12, 0), Qt::OffsetFromUTC, 3600 * 5),
                                        QDateTime(QDate(2025, 7, 1), QTime(12, 0), Qt::LocalTime),
                                        QDateTime(QDate(2025, 7, 1), QTime(12, 0), Qt::UTC), QDateTime()}) {
            QDateTime to = before;
            QVERIFY(ObjectValue<QDateTime>::set(to, value).ok());
            QCOMPARE(to.toMSecsSinceEpoch(), 1'767'225'600'000);
            QCOMPARE(to.timeSpec(), before.isValid() ? before.timeSpec() : Qt::UTC);
            if (before.timeSpec() == Qt::TimeZone) QCOMPARE(to.timeZone(), before.timeZone());
        }
    }

    /// What the member cannot hold is refused and not rounded; what is of another type, too. It stays as it was.
    void nothingIsRounded() {
        QTime time(9, 30);
        QDateTime moment = QDateTime::fromMSecsSinceEpoch(5, Qt::UTC);
        QDate day(2026, 12, 1);
        QString text = "as it was";
        QVERIFY(!ObjectValue<QTime>::set(time, Time{1'000'001}).ok());
        QVERIFY(!ObjectValue<QDateTime>::set(moment, Instant{1'001}).ok());
        QVERIFY(!ObjectValue<QDate>::set(day, std::string("soon")).ok());
        QVERIFY(!ObjectValue<QString>::set(text, std::int64_t{7}).ok());
        QVERIFY(!ObjectValue<QTime>::set(time, Time{86'400'000'000}).ok());  // 24:00, which QTime does not know
        QCOMPARE(time, QTime(9, 30));
        QCOMPARE(moment.toMSecsSinceEpoch(), qint64{5});
        QCOMPARE(day, QDate(2026, 12, 1));
        QCOMPARE(text, QString("as it was"));
    }

    /// Days that no column can hold are no other days.
    void oddDaysAreSaid() {
        for (const QDate& day : {QDate(-44, 3, 15), QDate(10'000, 1, 1), QDate(12'000'000, 5, 6)}) {
            const Value value = ObjectValue<QDate>::value(day, {});
            QVERIFY(std::holds_alternative<Unfit>(value));
            QCOMPARE(QString::fromStdString(std::get<Unfit>(value).text),
                     QString("%1-%2-%3").arg(day.year()).arg(day.month()).arg(day.day()));
            const FieldSchema field = described<QDate>();
            ColumnChunk chunk;
            chunk.reset(field.type, field.scale, false);
            ObjectValue<QDate>::add(chunk, day, field);
            ColumnBuilder column(field);
            column.append(chunk);
            QVERIFY(column.share()->value(SourceRow{0}) == value);
        }
        const QDateTime late(QDate(10'000, 1, 1), QTime(0, 0), Qt::UTC);
        QVERIFY(std::holds_alternative<Unfit>(ObjectValue<QDateTime>::value(late, {})));
        // A text of length zero is an empty one, however it is given.
        QString text = "before";
        QVERIFY(ObjectValue<QString>::set(text, std::string()).ok());
        QVERIFY(text.isEmpty());
    }

    void asFieldsOfObjects() {
        ObjectSource<Job> jobs("jobs");
        jobs.field("work", &Job::work);
        jobs.field("due", &Job::due);
        jobs.field("at", &Job::at);
        jobs.field("seen", &Job::seen);
        jobs.field("photo", &Job::photo);
        jobs.set({{"Step mast", QDate(2026, 12, 3), QTime(8, 30), {}, "P6"}, {}});
        LoadRequest request;
        request.binding.table = "jobs";
        request.wanted.assign(jobs.schema().fields.size(), true);
        const auto table = jobs.source()->load(request, Cancel());
        QVERIFY(table.ok());
        QCOMPARE((*table)->rows, std::size_t{2});
        const auto at = [&](const char* field, int row) {
            return (*table)->column(*(*table)->schema.find(field))->value(static_cast<SourceRow>(row));
        };
        QVERIFY(at("work", 0) == Value(std::string("Step mast")));
        QVERIFY(at("due", 0) == Value(Date{20'790}));
        QVERIFY(at("photo", 0) == Value(Bytes{"P6"}));
        for (const char* field : {"work", "due", "at", "seen", "photo"}) QVERIFY(isEmpty(at(field, 1)));
    }
};

QTEST_GUILESS_MAIN(QtMembersTest)
#include "qt_members_test.moc"
