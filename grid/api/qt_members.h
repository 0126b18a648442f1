// SPDX-License-Identifier: MIT
#pragma once
// Members of Qt's types in an ObjectSource (core/sources/objects/object_source.h): include it where the fields are
// declared. A text of length zero and an invalid day, time or moment are empty cells; a day outside the years 1 to 9999
// is shown as it is and fits no rule.
//
//   struct Job { QString work; QDate due; QDateTime seen; };
//   jobs.field("due", &Job::due);

#include <QByteArray>
#include <QDate>
#include <QDateTime>
#include <QString>
#include <QTime>
#include <QTimeZone>

#include <cstdint>
#include <string>
#include <utility>

#include "core/sources/objects/object_value.h"

namespace jollyrow {
namespace objects {

/// Of a type that can be empty by itself: by the value it stands for, where it is valid.
template <class From, class To, class Way>
struct QtMember {
    using Other = ObjectValue<To>;
    static void describe(FieldSchema& field) {
        Other::describe(field);
        field.required = false;
    }
    static void add(ColumnChunk& chunk, const From& from, const FieldSchema& field) {
        if (Way::isEmpty(from)) return chunk.addEmpty();
        const std::string odd = oddly(from);
        odd.empty() ? Other::add(chunk, Way::to(from), field) : chunk.addMisfit(odd);
    }
    static Value value(const From& from, const FieldSchema& field) {
        if (Way::isEmpty(from)) return Empty{};
        std::string odd = oddly(from);
        return odd.empty() ? Other::value(Way::to(from), field) : Value(Unfit{std::move(odd), Stored::Text});
    }
    static Result<void> set(From& to, const Value& from) {
        if (jollyrow::isEmpty(from)) {
            to = From();
            return {};
        }
        To other{};
        if (auto done = Other::set(other, from); !done) return done;
        const From taken = Way::from(other, to);
        if (Way::isEmpty(taken) && !jollyrow::isEmpty(Other::value(other, {})))
            return unfit("a value that this field can keep");
        to = taken;
        return {};
    }

  private:
    /// What columns cannot hold, as words; "" for all else.
    static std::string oddly(const From& from) {
        if constexpr (requires { Way::day(from); }) {
            const QDate day = Way::day(from);
            if (day.year() < 1 || day.year() > 9999)
                return QStringLiteral("%1-%2-%3").arg(day.year()).arg(day.month()).arg(day.day()).toStdString();
        }
        return {};
    }
};

struct QStringWay {
    static bool isEmpty(const QString& from) { return from.isEmpty(); }
    static std::string to(const QString& from) { return from.toStdString(); }
    static QString from(const std::string& text, const QString&) { return QString::fromStdString(text); }
};
struct QByteArrayWay {
    static bool isEmpty(const QByteArray& from) { return from.isEmpty(); }
    static Bytes to(const QByteArray& from) { return Bytes{from.toStdString()}; }
    static QByteArray from(const Bytes& bytes, const QByteArray&) { return QByteArray::fromStdString(bytes.data); }
};
struct QDateWay {
    static constexpr qint64 kEpoch = 2440588;  // 1970-01-01 as a Julian day
    static QDate day(const QDate& from) { return from; }
    static bool isEmpty(const QDate& from) { return !from.isValid(); }
    static Date to(const QDate& from) { return {static_cast<std::int32_t>(from.toJulianDay() - kEpoch)}; }
    static QDate from(Date date, const QDate&) { return QDate::fromJulianDay(date.days + kEpoch); }
};
struct QTimeWay {
    static constexpr std::int64_t kMicros = 1000;  // a millisecond, the finest that QTime has
    static bool isEmpty(const QTime& from) { return !from.isValid(); }
    static Time to(const QTime& from) { return {from.msecsSinceStartOfDay() * kMicros}; }
    static QTime from(Time time, const QTime&) {
        return time.micros % kMicros == 0 ? QTime::fromMSecsSinceStartOfDay(static_cast<int>(time.micros / kMicros))
                                          : QTime();
    }
};
/// A point of time, whatever its zone; it keeps the zone that it has.
struct QDateTimeWay {
    static QDate day(const QDateTime& from) { return from.toUTC().date(); }
    static bool isEmpty(const QDateTime& from) { return !from.isValid(); }
    static Instant to(const QDateTime& from) { return {from.toMSecsSinceEpoch() * QTimeWay::kMicros}; }
    static QDateTime from(Instant instant, const QDateTime& before) {
        if (instant.micros % QTimeWay::kMicros != 0) return {};
        const QDateTime utc = QDateTime::fromMSecsSinceEpoch(instant.micros / QTimeWay::kMicros, Qt::UTC);
        return !before.isValid()                        ? utc
               : before.timeSpec() == Qt::TimeZone      ? utc.toTimeZone(before.timeZone())
               : before.timeSpec() == Qt::OffsetFromUTC ? utc.toOffsetFromUtc(before.offsetFromUtc())
                                                        : utc.toTimeSpec(before.timeSpec());
    }
};

}  // namespace objects

template <>
struct ObjectValue<QString> : objects::QtMember<QString, std::string, objects::QStringWay> {};
template <>
struct ObjectValue<QByteArray> : objects::QtMember<QByteArray, Bytes, objects::QByteArrayWay> {};
template <>
struct ObjectValue<QDate> : objects::QtMember<QDate, Date, objects::QDateWay> {};
template <>
struct ObjectValue<QTime> : objects::QtMember<QTime, Time, objects::QTimeWay> {};
template <>
struct ObjectValue<QDateTime> : objects::QtMember<QDateTime, Instant, objects::QDateTimeWay> {};

}  // namespace jollyrow
