// SPDX-License-Identifier: MIT
#pragma once
// Random expressions over the records of rule_records.h, for tests against databases.

#include <random>
#include <string>
#include <vector>

#include "core/rules/rule_type.h"

namespace jollyrow::test {

/// Writes random expressions of a wanted kind.
class Generator {
  public:
    explicit Generator(std::uint64_t seed) : random_(seed) {}

    std::string make(RuleKind kind, int depth) {
        const bool leaf = depth <= 0 || chance(5);
        switch (kind) {
            case RuleKind::Boolean: return leaf ? pick({"b", "TRUE", "FALSE", "NULL"}) : condition(depth);
            case RuleKind::Integer: return leaf ? pick({"i", "j", "0", "1", "-3", "7", "100", "NULL"}) : integer(depth);
            case RuleKind::Decimal: return leaf ? pick({"d", "e", "0.5", "-1.25", "3.00", "1000.001"}) : decimal(depth);
            case RuleKind::Real:
                return leaf ? pick({"r", "CAST('0.1' AS DOUBLE PRECISION)", "CAST(2 AS DOUBLE PRECISION)"})
                            : real(depth);
            case RuleKind::Date: return leaf ? pick({"dt", "du", "DATE '2026-02-28'", "CURRENT_DATE"}) : date(depth);
            case RuleKind::Time:
                return leaf ? pick({"tm", "TIME '12:00:00'"})
                            : op(make(kind, depth - 1), pick({"+", "-"}), interval(0));
            case RuleKind::Timestamp: return leaf ? pick({"ts", "TIMESTAMP '2024-02-29 12:00:00'"}) : timestamp(depth);
            case RuleKind::Interval: return interval(depth);
            default: return leaf ? pick({"s", "u", "'Wren'", "''", "'%'", "'é'", "'a_b'"}) : text(depth);
        }
    }
    RuleKind anyKind() {
        static const std::vector<RuleKind> kKinds = {RuleKind::Boolean, RuleKind::Integer,   RuleKind::Decimal,
                                                     RuleKind::Real,    RuleKind::Text,      RuleKind::Date,
                                                     RuleKind::Time,    RuleKind::Timestamp, RuleKind::Interval};
        return kKinds[random_() % kKinds.size()];
    }

  private:
    bool chance(unsigned oneIn) { return random_() % oneIn == 0; }
    std::string pick(std::vector<std::string> choices) { return choices[random_() % choices.size()]; }
    static std::string op(const std::string& a, const std::string& sign, const std::string& b) {
        return "(" + a + " " + sign + " " + b + ")";
    }

    std::string condition(int depth) {
        const RuleKind k = anyKind();
        const auto sub = [&](RuleKind kind) { return make(kind, depth - 1); };
        switch (random_() % 14) {
            case 12: return "(" + sub(k) + " BETWEEN SYMMETRIC " + sub(k) + " AND " + sub(k) + ")";
            case 13:
                return op(sub(RuleKind::Text), pick({"ILIKE", "NOT ILIKE"}), pick({"'%EN'", "'w_EN'", "'%É%'", "u"}));
            case 0: return op(sub(RuleKind::Boolean), "AND", sub(RuleKind::Boolean));
            case 1: return op(sub(RuleKind::Boolean), "OR", sub(RuleKind::Boolean));
            case 2: return "(NOT " + sub(RuleKind::Boolean) + ")";
            case 3: return op(sub(k), pick({"=", "<>", "<", "<=", ">", ">="}), sub(k));
            case 4: return "(" + sub(k) + pick({" IS NULL", " IS NOT NULL"}) + ")";
            case 5:
                return "(" + sub(RuleKind::Boolean) +
                       pick({" IS TRUE", " IS NOT TRUE", " IS FALSE", " IS NOT FALSE", " IS UNKNOWN"}) + ")";
            case 6: return op(sub(k), pick({"IS DISTINCT FROM", "IS NOT DISTINCT FROM"}), sub(k));
            case 7: return "(" + sub(k) + pick({" BETWEEN ", " NOT BETWEEN "}) + sub(k) + " AND " + sub(k) + ")";
            case 8: return "(" + sub(k) + pick({" IN (", " NOT IN ("}) + sub(k) + ", " + sub(k) + ", " + sub(k) + "))";
            case 9: return op(sub(RuleKind::Text), pick({"LIKE", "NOT LIKE"}), sub(RuleKind::Text));
            case 10:
                return "(" + sub(RuleKind::Text) + " LIKE " +
                       pick({"'%en'", "'_r%'", "'%'", "'W_en'", "'%é%'", "'%a!_b%' ESCAPE '!'", "'1%!%' ESCAPE '!'",
                             "'%_%_'"}) +
                       ")";
            default: return choice(RuleKind::Boolean, depth);
        }
    }
    std::string choice(RuleKind k, int depth) {
        const auto sub = [&](RuleKind kind) { return make(kind, depth - 1); };
        switch (random_() % 5) {
            case 0:
                return "CASE WHEN " + sub(RuleKind::Boolean) + " THEN " + sub(k) + " WHEN " + sub(RuleKind::Boolean) +
                       " THEN " + sub(k) + " ELSE " + sub(k) + " END";
            case 1:
                return "CASE " + sub(RuleKind::Integer) + " WHEN " + sub(RuleKind::Integer) + " THEN " + sub(k) +
                       " END";
            case 2: return "COALESCE(" + sub(k) + ", " + sub(k) + ")";
            case 3: return "NULLIF(" + sub(k) + ", " + sub(k) + ")";
            default: return pick({"GREATEST(", "LEAST("}) + sub(k) + ", " + sub(k) + ", " + sub(k) + ")";
        }
    }
    std::string integer(int depth) {
        const auto sub = [&](RuleKind kind) { return make(kind, depth - 1); };
        const RuleKind I = RuleKind::Integer;
        switch (random_() % 20) {
            case 14: return pick({"DIV((", "GCD((", "LCM(("}) + sub(I) + ")::int8, (" + sub(I) + ")::int8)";
            case 15: return pick({"SCALE(", "MIN_SCALE("}) + sub(RuleKind::Decimal) + ")";
            case 16: return "ASCII(" + sub(RuleKind::Text) + ")";
            case 17:
                return "EXTRACT(" + pick({"CENTURY", "DECADE", "MILLENNIUM", "DOW"}) + " FROM " +
                       sub(chance(2) ? RuleKind::Date : RuleKind::Timestamp) + ")";
            case 18:
                return "WIDTH_BUCKET(" + sub(chance(2) ? RuleKind::Decimal : RuleKind::Real) + ", " +
                       pick({"0, 10", "10, 0", "-1.5, 100.25", "3, 3"}) + ", " + pick({"5", "0", "1", "j"}) + ")";
            case 19: return "(" + sub(RuleKind::Decimal) + ")::smallint";
            case 0: return choice(I, depth);
            case 1: return "CHAR_LENGTH(" + sub(RuleKind::Text) + ")";
            case 2: return "OCTET_LENGTH(" + sub(RuleKind::Text) + ")";
            case 3: return "POSITION(" + sub(RuleKind::Text) + " IN " + sub(RuleKind::Text) + ")";
            case 4:
                return "EXTRACT(" + pick({"YEAR", "QUARTER", "MONTH", "WEEK", "DAY", "DOY", "ISODOW", "ISOYEAR"}) +
                       " FROM " + sub(chance(2) ? RuleKind::Date : RuleKind::Timestamp) + ")";
            case 5:
                return "EXTRACT(" + pick({"HOUR", "MINUTE"}) + " FROM " +
                       sub(chance(2) ? RuleKind::Time : RuleKind::Timestamp) + ")";
            case 6: return pick({"ABS(", "SIGN(", "- (", "ROUND("}) + sub(I) + ")";
            case 7: return "CAST(" + sub(chance(2) ? RuleKind::Decimal : RuleKind::Real) + " AS INTEGER)";
            case 8: return "CAST(" + pick({"'12'", "' -7 '", "'12abc'", "'2.7'", "''", "s"}) + " AS INTEGER)";
            case 9: return op(sub(RuleKind::Date), "-", sub(RuleKind::Date));
            case 10:
                return "EXTRACT(" + pick({"YEAR", "MONTH", "DAY", "HOUR", "MINUTE"}) + " FROM " + interval(depth - 1) +
                       ")";
            case 11: return "ROUND(" + sub(I) + ", " + pick({"-1", "0", "2", "-3"}) + ")";
            default: return op(sub(I), pick({"+", "-", "*", "/", "%"}), sub(I));
        }
    }
    std::string decimal(int depth) {
        const auto sub = [&](RuleKind kind) { return make(kind, depth - 1); };
        const RuleKind D = RuleKind::Decimal;
        switch (random_() % 18) {
            case 12: return pick({"SQRT(", "SQRT(", "LN("}) + pick({"ABS(", "1.5 + ABS("}) + sub(D) + "))";
            case 13: return "EXP(" + pick({"0.5", "-3.25", "d", "e"}) + " % 20.0)";
            case 14: return "POWER(" + sub(D) + ", " + pick({"2", "3", "-1", "0", "10", "0.5", "1.25", "j"}) + ")";
            case 15: return pick({"TRIM_SCALE((", "LOG(2, 1.5 + ABS(", "DIV(7.5, ("}) + sub(D) + "))";
            case 16:
                return "EXTRACT(" + pick({"EPOCH", "MILLISECONDS", "MICROSECONDS"}) + " FROM " +
                       sub(chance(2) ? RuleKind::Time : RuleKind::Timestamp) + ")";
            case 17: return "EXTRACT(EPOCH FROM " + (chance(2) ? interval(depth - 1) : sub(RuleKind::Date)) + ")";
            case 0: return choice(D, depth);
            case 1: return "ROUND(" + sub(D) + ", " + pick({"0", "1", "2", "-1", "4"}) + ")";
            case 2: return "TRUNC(" + sub(D) + ", " + pick({"0", "1", "-2"}) + ")";
            case 3: return pick({"FLOOR(", "CEIL(", "ABS(", "SIGN(", "- ("}) + sub(D) + ")";
            case 4: return "CAST(" + sub(D) + " AS DECIMAL(" + pick({"10,2", "20,4", "6,0", "18,6"}) + "))";
            case 5: return "CAST(" + pick({"'12.50'", "'1e3'", "' .5 '", "'abc'", "'-0.10'", "s"}) + " AS DECIMAL)";
            case 6: return op(sub(RuleKind::Integer), pick({"+", "-", "*", "/"}), sub(D));
            case 7: return "EXTRACT(SECOND FROM " + sub(RuleKind::Timestamp) + ")";
            default: return op(sub(D), pick({"+", "-", "*", "/", "%"}), sub(D));
        }
    }
    std::string real(int depth) {
        const auto sub = [&](RuleKind kind) { return make(kind, depth - 1); };
        const RuleKind R = RuleKind::Real;
        switch (random_() % 12) {
            case 9: return pick({"CBRT(", "DEGREES(", "RADIANS(", "ATAN(", "LOG("}) + sub(R) + ")";
            case 10: return pick({"SIN(", "COS(", "ASIN(", "ACOS(", "TAN("}) + sub(R) + ")";
            case 11: return "(" + sub(chance(2) ? RuleKind::Decimal : RuleKind::Integer) + ")::real";
            case 0: return choice(R, depth);
            case 1: return pick({"SQRT(", "LN(", "EXP(", "SQRT("}) + sub(R) + ")";
            case 2: return "POWER(" + sub(R) + ", " + pick({"2", "0.5", "-1", "0"}) + ")";
            case 3: return pick({"FLOOR(", "CEIL(", "ABS(", "ROUND(", "TRUNC("}) + sub(R) + ")";
            case 4: return "CAST(" + sub(chance(2) ? RuleKind::Decimal : RuleKind::Integer) + " AS DOUBLE PRECISION)";
            case 5: return op(sub(R), pick({"+", "*"}), sub(chance(2) ? RuleKind::Decimal : RuleKind::Integer));
            default: return op(sub(R), pick({"+", "-", "*", "/"}), sub(R));
        }
    }
    std::string date(int depth) {
        const auto sub = [&](RuleKind kind) { return make(kind, depth - 1); };
        switch (random_() % 6) {
            case 5: return "MAKE_DATE(" + pick({"2024", "1999", "0"}) + ", " + pick({"2", "13", "12"}) + ", j)";
            case 0: return choice(RuleKind::Date, depth);
            case 1: return op(sub(RuleKind::Date), pick({"+", "-"}), pick({"1", "30", "366", "j"}));
            case 2: return "CAST(" + sub(RuleKind::Timestamp) + " AS DATE)";
            case 3: return "CAST(" + pick({"'2024-02-29'", "'2023-02-29'", "'x'"}) + " AS DATE)";
            default: return "LEAST(" + sub(RuleKind::Date) + ", " + sub(RuleKind::Date) + ")";
        }
    }
    std::string timestamp(int depth) {
        const auto sub = [&](RuleKind kind) { return make(kind, depth - 1); };
        switch (random_() % 7) {
            case 5:
                return "DATE_TRUNC('" +
                       pick({"week", "month", "quarter", "year", "decade", "century", "hour", "milliseconds"}) + "', " +
                       sub(RuleKind::Timestamp) + ")";
            case 6: return "MAKE_TIMESTAMP(2024, 2, " + pick({"1", "29", "30"}) + ", j, 5, 6.789)";
            case 0: return choice(RuleKind::Timestamp, depth);
            case 1: return op(sub(RuleKind::Date), pick({"+", "-"}), interval(depth - 1));
            case 2: return "CAST(" + sub(RuleKind::Date) + " AS TIMESTAMP)";
            case 3: return op(sub(RuleKind::Date), "+", sub(RuleKind::Time));
            default: return op(sub(RuleKind::Timestamp), pick({"+", "-"}), interval(depth - 1));
        }
    }
    std::string interval(int depth) {
        if (depth <= 0 || chance(3))
            return pick({"INTERVAL '1' MONTH", "INTERVAL '3 days 04:05:06.5'", "INTERVAL '-1 year 2 months'",
                         "INTERVAL '1-2' YEAR TO MONTH", "INTERVAL '90 minutes'", "INTERVAL '30' DAY"});
        switch (random_() % 6) {
            case 4:
                return "AGE(" + make(RuleKind::Timestamp, depth - 1) + ", " + make(RuleKind::Timestamp, depth - 1) +
                       ")";
            case 5:
                return "DATE_TRUNC('" + pick({"year", "month", "quarter", "day", "minute"}) + "', " +
                       interval(depth - 1) + ")";
            case 0: return op(make(RuleKind::Timestamp, depth - 1), "-", make(RuleKind::Timestamp, depth - 1));
            case 1: return op(interval(depth - 1), pick({"+", "-"}), interval(depth - 1));
            case 2: return op(interval(depth - 1), "*", pick({"2", "-3", "0", "j"}));
            default: return op(make(RuleKind::Time, depth - 1), "-", make(RuleKind::Time, depth - 1));
        }
    }
    std::string text(int depth) {
        const auto sub = [&](RuleKind kind) { return make(kind, depth - 1); };
        const RuleKind T = RuleKind::Text;
        const std::string small = pick({"0", "1", "2", "-1", "5", "j"});
        switch (random_() % 20) {
            case 16:
                return "TRANSLATE(" + sub(T) + ", " + pick({"'enW'", "'éa'", "''", "u"}) + ", " +
                       pick({"'xyz'", "'x'", "''"}) + ")";
            case 17: return "SPLIT_PART(" + sub(T) + ", " + pick({"'e'", "''", "'_'", "u"}) + ", " + small + ")";
            case 18:
                return "CONCAT_WS(" + pick({"', '", "''", "NULL", "s"}) + ", " + sub(T) + ", " + sub(anyKind()) + ")";
            case 19: return "CHR(" + pick({"65", "233", "8364", "0", "-1", "j"}) + ")";
            case 0: return choice(T, depth);
            case 1: return pick({"UPPER(", "LOWER(", "REVERSE("}) + sub(T) + ")";
            case 2: return "SUBSTRING(" + sub(T) + " FROM " + small + ")";
            case 3: return "SUBSTRING(" + sub(T) + " FROM " + small + " FOR " + pick({"0", "1", "3", "-1"}) + ")";
            case 4:
                return "TRIM(" + pick({"BOTH ", "LEADING ", "TRAILING "}) + pick({"", "'W' ", "'nrÉ' "}) + "FROM " +
                       sub(T) + ")";
            case 5:
                return "OVERLAY(" + sub(T) + " PLACING " + sub(T) + " FROM " + pick({"1", "2", "4"}) +
                       pick({"", " FOR 2", " FOR 0"}) + ")";
            case 6: return pick({"LEFT(", "RIGHT("}) + sub(T) + ", " + small + ")";
            case 7:
                return pick({"LPAD(", "RPAD("}) + sub(T) + ", " + pick({"0", "3", "8", "-2"}) +
                       pick({"", ", 'xy'", ", ''"}) + ")";
            case 8: return "REPLACE(" + sub(T) + ", " + pick({"'e'", "''", "'r'"}) + ", " + sub(T) + ")";
            case 9: return "REPEAT(" + sub(T) + ", " + pick({"0", "2", "-1"}) + ")";
            case 10: return "CONCAT(" + sub(T) + ", " + sub(anyKind()) + ")";
            case 11: return "CAST(" + sub(T) + " AS VARCHAR(" + pick({"1", "3", "20"}) + "))";
            case 12: return "CAST(" + sub(anyKind()) + " AS TEXT)";
            case 13: return op(sub(T), "||", sub(RuleKind::Integer));
            default: return op(sub(T), "||", sub(T));
        }
    }
    std::mt19937_64 random_;
};

}  // namespace jollyrow::test
