// SPDX-License-Identifier: MIT
// Each instruction becomes a text over the texts of its operands. PostgreSQL is given the types we compute with
// (CASTs around constants, 64-bit whole numbers, doubles for SQRT and its like, a named collation where texts are
// ordered). SQLite is given only what it computes the same: no arithmetic (it turns overflow into doubles and keeps
// decimals as doubles), our own functions for LIKE and case. Covered by tests/rules/postgres_oracle_test.cpp and
// tests/sources/sqlite_rules_test.cpp.
#include "core/rules/sql_writer.h"

#include <fmt/format.h>

#include "core/rules/conversion.h"

namespace jollyrow {
namespace {

constexpr std::size_t kMostSql = std::size_t{1} << 20;
constexpr std::string_view kPostgresOrder = " COLLATE \"und-x-icu\"";

std::string quotedName(std::string_view name) {
    std::string out = "\"";
    for (const char c : name) {
        if (c == '"') out += c;
        if (c == '.')
            out += "\".\"";
        else
            out += c;
    }
    return out + "\"";
}

std::string_view postgresType(RuleKind kind) {
    switch (kind) {
        case RuleKind::Null:
        case RuleKind::Text: return "TEXT";
        case RuleKind::Boolean: return "BOOLEAN";
        case RuleKind::Integer: return "BIGINT";
        case RuleKind::Decimal: return "NUMERIC";
        case RuleKind::Real: return "DOUBLE PRECISION";
        case RuleKind::Date: return "DATE";
        case RuleKind::Time: return "TIME";
        case RuleKind::Timestamp: return "TIMESTAMP";
        case RuleKind::Instant: return "TIMESTAMP WITH TIME ZONE";
        case RuleKind::Interval: return "INTERVAL";
    }
    return "TEXT";
}

bool ordersTexts(Op op) {
    return op == Op::Less || op == Op::LessEqual || op == Op::Greater || op == Op::GreaterEqual || op == Op::Greatest ||
           op == Op::Least;
}

class Writer {
  public:
    Writer(const Program& program, const TableSchema& schema, SqlDialect dialect, const SqlOptions& options)
        : program_(program), schema_(schema), postgres_(dialect == SqlDialect::PostgreSql), options_(options) {}

    Result<SqlRule> run() {
        std::size_t size = 0;
        for (const Instruction& code : program_.code) {
            if (!postgres_ && code.type.kind == RuleKind::Instant) return refuse(code, "SQLite knows no time zones");
            auto text = postgres_ ? postgres(code) : sqlite(code);
            if (!text) return text.error();
            size += text->size();
            if (size > kMostSql)
                return Error{ErrorCode::Unsupported, "The SQL of this rule is longer than 1 MiB.", code.range};
            texts_.push_back(std::move(*text));
        }
        out_.text = texts_.back();
        return std::move(out_);
    }

  private:
    const std::string& arg(const Instruction& code, std::size_t k) const { return texts_[code.operands[k]]; }
    const Instruction& operand(const Instruction& code, std::size_t k) const { return program_.code[code.operands[k]]; }
    RuleKind kind(const Instruction& code, std::size_t k) const { return operand(code, k).type.kind; }

    std::string list(const Instruction& code, std::size_t from, std::string_view between = ", ") const {
        std::string out;
        for (std::size_t k = from; k < code.operands.size(); ++k) {
            if (k != from) out += between;
            out += arg(code, k);
        }
        return out;
    }

    std::string bound(const RuleValue& value) {
        out_.values.push_back(value);
        return fmt::format("{}{}", postgres_ ? '$' : '?', out_.values.size());
    }
    std::string field(const Instruction& code) const {
        const auto index = static_cast<FieldIndex>(code.index);
        return options_.field ? options_.field(index) : quotedName(schema_.field(index).name);
    }
    RuleValue parameter(const Instruction& code) const {
        const auto found = options_.parameters.find(program_.parameters[code.index].name);
        return found == options_.parameters.end() ? RuleValue(Empty{}) : found->second;
    }
    std::string caseText(const Instruction& code) const {
        std::string out = "CASE";
        for (std::size_t k = 0; k + 1 < code.operands.size(); k += 2)
            out += fmt::format(" WHEN {} THEN {}", arg(code, k), arg(code, k + 1));
        return out + fmt::format(" ELSE {} END", arg(code, code.operands.size() - 1));
    }

    // ---- PostgreSQL
    std::string typed(const RuleValue& value, RuleKind kind) {
        return fmt::format("CAST({} AS {})", bound(value), postgresType(kind));
    }
    /// A whole-number operand of arithmetic: a column may be of 16 or 32 bits there.
    std::string wide(const Instruction& code, std::size_t k) const {
        const bool column = operand(code, k).op == Op::Load && kind(code, k) == RuleKind::Integer;
        return column ? fmt::format("CAST({} AS BIGINT)", arg(code, k)) : arg(code, k);
    }
    std::string count(const Instruction& code, std::size_t k) const {
        return fmt::format("CAST({} AS INTEGER)", arg(code, k));
    }
    std::string collated(const Instruction& code, std::size_t k) const {
        return kind(code, k) == RuleKind::Text ? fmt::format("({}{})", arg(code, k), kPostgresOrder) : arg(code, k);
    }
    /// A call whose whole numbers are counts.
    std::string counted(const Instruction& code) const {
        std::string out;
        for (std::size_t k = 0; k < code.operands.size(); ++k)
            out.append(k == 0 ? "" : ", ").append(kind(code, k) == RuleKind::Integer ? count(code, k) : arg(code, k));
        return fmt::format("{}({})", name(code.op), out);
    }
    std::string plainCall(const Instruction& code) const { return fmt::format("{}({})", name(code.op), list(code, 0)); }

    Result<std::string> postgres(const Instruction& code) {
        switch (code.op) {
            case Op::Constant: return typed(code.constant, code.type.kind);
            case Op::Parameter: return typed(parameter(code), code.type.kind);
            case Op::CurrentDate: return typed(Date{options_.today}, RuleKind::Date);
            case Op::CurrentTimestamp: return typed(Timestamp{options_.now}, RuleKind::Timestamp);
            case Op::Load: return storedField(code, field(code));
            case Op::And:
            case Op::Or: return fmt::format("({} {} {})", arg(code, 0), name(code.op), arg(code, 1));
            case Op::Not: return fmt::format("(NOT {})", arg(code, 0));
            case Op::IsNull:
            case Op::IsTrue:
            case Op::IsFalse: return fmt::format("({} {})", arg(code, 0), name(code.op));
            case Op::Equal:
            case Op::NotEqual:
            case Op::Distinct: return fmt::format("({} {} {})", arg(code, 0), name(code.op), arg(code, 1));
            case Op::Less:
            case Op::LessEqual:
            case Op::Greater:
            case Op::GreaterEqual: return fmt::format("({} {} {})", collated(code, 0), name(code.op), arg(code, 1));
            case Op::In: return fmt::format("({} IN ({}))", arg(code, 0), list(code, 1));
            case Op::Case: return caseText(code);
            case Op::Greatest:
            case Op::Least: {
                std::string out = fmt::format("{}(", name(code.op));
                for (std::size_t k = 0; k < code.operands.size(); ++k)
                    out.append(k == 0 ? "" : ", ").append(k == 0 ? collated(code, k) : arg(code, k));
                return out + ")";
            }
            case Op::Add:
            case Op::Subtract:
            case Op::Multiply:
            case Op::Divide:
            case Op::Modulo: return postgresArithmetic(code);
            case Op::Negate: return fmt::format("(- {})", wide(code, 0));
            case Op::Abs: return fmt::format("ABS({})", wide(code, 0));
            case Op::Sign:
            case Op::Round:
            case Op::Truncate: return postgresRounding(code);
            case Op::Coalesce:
            case Op::Floor:
            case Op::Ceiling:
            case Op::SquareRoot:
            case Op::Power:
            case Op::Exponential:
            case Op::Logarithm:
            case Op::Concat:
            case Op::ConcatWith:
            case Op::Replace:
            case Op::Reverse:
            case Op::CubeRoot:
            case Op::Degrees:
            case Op::Radians:
            case Op::Sine:
            case Op::Cosine:
            case Op::Tangent:
            case Op::Cotangent:
            case Op::ArcSine:
            case Op::ArcCosine:
            case Op::ArcTangent:
            case Op::ArcTangent2:
            case Op::Logarithm10:
            case Op::TrimScale:
            case Op::Age:
            case Op::Translate:
            case Op::JustifyDays:
            case Op::JustifyHours:
            case Op::JustifyInterval:
            case Op::TextToDate:
            case Op::TextToNumber:
            case Op::TextToTimestamp:
            case Op::NumberToText:
            case Op::MomentToText:
            case Op::EpochToInstant: return plainCall(code);
            case Op::Format: return fmt::format("FORMAT({})", list(code, 0));
            case Op::MakeInterval: return counted(code);
            case Op::AtZone: return fmt::format("({} AT TIME ZONE {})", arg(code, 0), arg(code, 1));
            case Op::BitAnd:
            case Op::BitOr:
            case Op::BitExclusiveOr: return fmt::format("({} {} {})", wide(code, 0), name(code.op), wide(code, 1));
            case Op::BitNot: return fmt::format("(~ {})", wide(code, 0));
            case Op::ShiftLeft:
            case Op::ShiftRight: return fmt::format("({} {} {})", wide(code, 0), name(code.op), count(code, 1));
            case Op::SimilarTo:
                return fmt::format("({} SIMILAR TO {} ESCAPE {})", arg(code, 0), arg(code, 1),
                                   code.operands.size() > 2 ? arg(code, 2) : typed(std::string("\\"), RuleKind::Text));
            case Op::Matches:
            case Op::MatchCount:
            case Op::MatchPosition:
            case Op::MatchText:
            case Op::MatchReplace: return refuse(code, "regular expressions differ from one database to the next");
            case Op::CollationKey: return refuse(code, "COLLATE is computed here");
            case Op::CommonDivisor:
            case Op::CommonMultiple: return fmt::format("{}({}, {})", name(code.op), wide(code, 0), wide(code, 1));
            case Op::WholeQuotient:
                return fmt::format("CAST(DIV({}) AS {})", list(code, 0), postgresType(code.type.kind));
            case Op::ScaleOf:
            case Op::LeastScale:
            case Op::CodePoint: return fmt::format("CAST({} AS BIGINT)", plainCall(code));
            case Op::SplitPart:
            case Op::Character:
            case Op::MakeDate:
            case Op::MakeTime:
            case Op::MakeTimestamp: return counted(code);
            case Op::WidthBucket: return fmt::format("CAST({} AS BIGINT)", counted(code));
            case Op::TruncateTime: return fmt::format("DATE_TRUNC('{}', {})", name(code.part), arg(code, 0));
            case Op::InitialCapitals: return refuse(code, "what a word is goes by the database's locale there");
            case Op::Concatenate: return fmt::format("({} || {})", arg(code, 0), arg(code, 1));
            case Op::Like:
                return fmt::format("({} LIKE {} ESCAPE {})", arg(code, 0), arg(code, 1),
                                   code.operands.size() > 2 ? arg(code, 2) : typed(std::string("\\"), RuleKind::Text));
            case Op::CharLength:
            case Op::OctetLength: return fmt::format("CAST({} AS BIGINT)", plainCall(code));
            case Op::Position: return fmt::format("CAST(POSITION({} IN {}) AS BIGINT)", arg(code, 0), arg(code, 1));
            case Op::Trim: return fmt::format("BTRIM({})", list(code, 0));
            case Op::TrimLeading:
            case Op::TrimTrailing: return plainCall(code);
            case Op::Substring:
            case Op::Left:
            case Op::Right:
            case Op::Repeat:
                return fmt::format("{}({}, {}{})", name(code.op), arg(code, 0), count(code, 1),
                                   code.operands.size() > 2 ? ", " + count(code, 2) : "");
            case Op::PadLeft:
            case Op::PadRight:
                return fmt::format("{}({}, {}{})", name(code.op), arg(code, 0), count(code, 1),
                                   code.operands.size() > 2 ? ", " + arg(code, 2) : "");
            case Op::Overlay:
                return fmt::format("OVERLAY({} PLACING {} FROM {}{})", arg(code, 0), arg(code, 1), count(code, 2),
                                   code.operands.size() > 3 ? " FOR " + count(code, 3) : "");
            // Case as ICU maps it, whatever the database's own locale.
            case Op::Upper:
            case Op::Lower: return fmt::format("{}({} COLLATE \"und-x-icu\")", name(code.op), arg(code, 0));
            case Op::Extract: return fmt::format("EXTRACT({} FROM {})", name(code.part), arg(code, 0));
            case Op::Cast: return postgresCast(code);
            case Op::External: return refuse(code, "a function of the application is computed here");
            case Op::Window: return window(code);
            case Op::NullIf: break;  // the binder writes it as CASE
        }
        return refuse(code, "this has no SQL");
    }

    Result<std::string> postgresArithmetic(const Instruction& code) const {
        const RuleKind a = kind(code, 0), b = kind(code, 1);
        if (a == RuleKind::Date && b == RuleKind::Integer)
            return fmt::format("({} {} {})", arg(code, 0), name(code.op), count(code, 1));
        if (a == RuleKind::Date && b == RuleKind::Date)
            return fmt::format("CAST(({} - {}) AS BIGINT)", arg(code, 0), arg(code, 1));
        if (a == RuleKind::Interval && b == RuleKind::Integer)
            return fmt::format("({} * CAST({} AS DOUBLE PRECISION))", arg(code, 0), arg(code, 1));
        return fmt::format("({} {} {})", wide(code, 0), name(code.op), wide(code, 1));
    }

    /// A `real` as it is read here: the double with the same shortest text.
    static std::string shortestReal(const std::string& real) {
        return fmt::format("CAST(CAST({} AS TEXT) AS DOUBLE PRECISION)", real);
    }

    Result<std::string> postgresRounding(const Instruction& code) const {
        const bool whole = kind(code, 0) == RuleKind::Integer;
        const std::string value = whole ? fmt::format("CAST({} AS NUMERIC)", arg(code, 0)) : arg(code, 0);
        const std::string call =
            fmt::format("{}({}{})", name(code.op), value, code.operands.size() > 1 ? ", " + count(code, 1) : "");
        return whole ? fmt::format("CAST({} AS BIGINT)", call) : call;
    }

    Result<std::string> postgresCast(const Instruction& code) const {
        const RuleKind from = kind(code, 0), to = code.type.kind;
        if (from == RuleKind::Boolean && to == RuleKind::Integer)
            return fmt::format("CAST(CAST({} AS INTEGER) AS BIGINT)", arg(code, 0));
        if (from == RuleKind::Integer && to == RuleKind::Boolean) return fmt::format("({} <> 0)", arg(code, 0));
        std::string type(postgresType(to));
        if (code.bits != 0) {
            const bool isWhole = to == RuleKind::Integer;
            const std::string small = fmt::format("CAST({} AS {})", arg(code, 0), isWhole ? "SMALLINT" : "REAL");
            return isWhole ? fmt::format("CAST({} AS BIGINT)", small) : shortestReal(small);
        }
        if (code.precision >= 0)
            type = to == RuleKind::Text ? fmt::format("VARCHAR({})", code.precision)
                                        : fmt::format("NUMERIC({}, {})", code.precision, code.type.scale);
        std::string text = fmt::format("CAST({} AS {})", arg(code, 0), type);
        return to == RuleKind::Text && code.precision >= 0 ? fmt::format("CAST({} AS TEXT)", text) : text;
    }

    Result<std::string> window(const Instruction& code) const {
        const WindowSpec& spec = program_.windows[code.index];
        if (spec.external) return refuse(code, "an aggregate of the application is computed here");
        const auto ordered = [&](std::uint32_t ref) {
            return program_.code[ref].type.kind == RuleKind::Text && postgres_
                       ? fmt::format("({}{})", texts_[ref], kPostgresOrder)
                       : texts_[ref];
        };
        std::string given = spec.arguments.empty() && spec.aggregate == Aggregate::Count ? "*" : "";
        for (std::size_t k = 0; k < spec.arguments.size(); ++k) {
            const bool isCount = k == 1 || spec.aggregate == Aggregate::Tile;  // how many, or which
            const std::uint32_t ref = spec.arguments[k];
            given.append(k == 0 ? "" : ", ");
            given.append(isCount && program_.code[ref].type.kind == RuleKind::Integer
                             ? fmt::format("CAST({} AS INTEGER)", texts_[ref])
                         : isExtreme(spec.aggregate) ? ordered(ref)
                                                     : texts_[ref]);
        }
        std::string out = fmt::format("{}({}) OVER (", name(spec.aggregate), given);
        for (std::size_t k = 0; k < spec.partition.size(); ++k)
            out.append(k == 0 ? "PARTITION BY " : ", ").append(texts_[spec.partition[k]]);
        for (std::size_t k = 0; k < spec.order.size(); ++k)
            out.append(k == 0 ? " ORDER BY " : ", ")
                .append(ordered(spec.order[k]))
                .append(spec.descending[k] ? " DESC" : " ASC")
                .append(spec.emptiesFirst[k] ? " NULLS FIRST" : " NULLS LAST");
        if (spec.frame != WindowFrame{}) {
            const auto distance = [&](bool isFirst) {
                if (spec.distances.empty()) return std::string();
                return texts_[isFirst ? spec.distances.front() : spec.distances.back()];
            };
            out += " " + frameText(spec.frame, distance(true), distance(false));
        }
        out += ")";
        return spec.aggregate == Aggregate::Tile && postgres_ ? fmt::format("CAST({} AS BIGINT)", out) : out;
    }
    static bool isExtreme(Aggregate aggregate) {
        return aggregate == Aggregate::Minimum || aggregate == Aggregate::Maximum;
    }

    /// No database knows a computed field.
    Result<std::string> storedField(const Instruction& code, Result<std::string> written) const {
        const FieldSchema& read = schema_.field(static_cast<FieldIndex>(code.index));
        if (read.stored.form != StoredForm::Own)
            return Error{ErrorCode::Unsupported,
                         fmt::format("{} is stored as {}, which is read here.", read.name, toText(read.stored)),
                         code.range};
        const bool isSmall = postgres_ && read.type == Type::Real && (read.declaredType == "real");
        if (read.rule.empty()) return isSmall && written ? shortestReal(*written) : written;
        return Error{ErrorCode::Unsupported, fmt::format("{} is computed here, from {}.", read.name, read.rule),
                     code.range};
    }

    Error refuse(const Instruction& code, std::string_view why) const {
        return {ErrorCode::Unsupported, fmt::format("{} stays here: {}.", name(code.op), why), code.range};
    }

    /// Part of a date, or a whole number beside one: an exact number that SQLite keeps as an integer.
    bool isWhole(std::uint32_t ref) const {
        const Instruction& code = program_.code[ref];
        if (code.op == Op::Extract) return code.part != DatePart::Second;
        const auto* value = code.op == Op::Constant ? std::get_if<WideDecimal>(&code.constant) : nullptr;
        return value && value->scale == 0 && toInteger(*value);
    }

    // ---- SQLite
    Result<std::string> sqlite(const Instruction& code) {
        constexpr std::string_view kNumbers = "SQLite turns overflow and decimals into doubles";
        switch (code.op) {
            case Op::Constant:
                if (const auto* whole = std::get_if<WideDecimal>(&code.constant);
                    whole && whole->scale == 0 && toInteger(*whole))
                    return sqliteValue(code, *toInteger(*whole));
                return sqliteValue(code, code.constant);
            case Op::Parameter: return sqliteValue(code, parameter(code));
            case Op::CurrentDate: return bound(Date{options_.today});
            case Op::CurrentTimestamp: return bound(Timestamp{options_.now});
            case Op::Load: return storedField(code, sqliteField(code));
            case Op::And:
            case Op::Or: return fmt::format("({} {} {})", arg(code, 0), name(code.op), arg(code, 1));
            case Op::Not: return fmt::format("(NOT {})", arg(code, 0));
            case Op::IsNull: return fmt::format("({} IS NULL)", arg(code, 0));
            case Op::IsTrue: return fmt::format("({} IS TRUE)", arg(code, 0));
            case Op::IsFalse: return fmt::format("({} IS FALSE)", arg(code, 0));
            case Op::Equal:
            case Op::NotEqual:
            case Op::Distinct:
            case Op::Less:
            case Op::LessEqual:
            case Op::Greater:
            case Op::GreaterEqual:
                if (kind(code, 0) == RuleKind::Decimal && !(isWhole(code.operands[0]) && isWhole(code.operands[1])))
                    return refuse(code, "SQLite keeps decimals as doubles");
                if (kind(code, 0) == RuleKind::Timestamp)
                    return refuse(code, "SQLite compares timestamps as they are written");
                return fmt::format("({}{} {} {})", arg(code, 0),
                                   kind(code, 0) == RuleKind::Text && ordersTexts(code.op) ? " COLLATE jollyrow" : "",
                                   name(code.op), arg(code, 1));
            case Op::In:
                if (kind(code, 0) == RuleKind::Decimal || kind(code, 0) == RuleKind::Timestamp)
                    return refuse(code, "SQLite keeps such values in several forms");
                return fmt::format("({} IN ({}))", arg(code, 0), list(code, 1));
            case Op::Case: return caseText(code);
            case Op::Coalesce:
                return code.operands.size() == 1 ? Result<std::string>(arg(code, 0))
                                                 : fmt::format("COALESCE({})", list(code, 0));
            case Op::Concatenate: return fmt::format("({} || {})", arg(code, 0), arg(code, 1));
            case Op::Like:
                return fmt::format("jollyrow_like({}, {}, {})", arg(code, 0), arg(code, 1),
                                   code.operands.size() > 2 ? arg(code, 2) : bound(std::string("\\")));
            case Op::Upper: return fmt::format("jollyrow_upper({})", arg(code, 0));
            case Op::Lower: return fmt::format("jollyrow_lower({})", arg(code, 0));
            case Op::CharLength: return fmt::format("LENGTH({})", arg(code, 0));
            case Op::Position: return fmt::format("INSTR({}, {})", arg(code, 1), arg(code, 0));
            case Op::Trim: return fmt::format("TRIM({})", list(code, 0));
            case Op::TrimLeading: return fmt::format("LTRIM({})", list(code, 0));
            case Op::TrimTrailing: return fmt::format("RTRIM({})", list(code, 0));
            case Op::Extract: {
                if (kind(code, 0) != RuleKind::Date) return refuse(code, "SQLite reads times as they are written");
                if (code.part == DatePart::Year) return strftime(code, 'Y');
                if (code.part == DatePart::Month) return strftime(code, 'm');
                if (code.part == DatePart::Day) return strftime(code, 'd');
                if (code.part == DatePart::DayOfYear) return strftime(code, 'j');
                return refuse(code, "SQLite has no such part of a date");
            }
            case Op::Greatest:
            case Op::Least: return refuse(code, "SQLite's MAX and MIN of several values are empty when one is");
            case Op::Window:
            case Op::Cast:
            case Op::Substring:
            case Op::Overlay:
            case Op::Left:
            case Op::Right:
            case Op::PadLeft:
            case Op::PadRight:
            case Op::Repeat:
            case Op::Replace:  // an empty part to replace is another thing there
            case Op::Reverse:
            case Op::OctetLength:
            case Op::Concat:
            case Op::ConcatWith:
            case Op::InitialCapitals:
            case Op::Translate:
            case Op::SplitPart:
            case Op::CodePoint:
            case Op::Character:
            case Op::TruncateTime:
            case Op::MakeDate:
            case Op::MakeTime:
            case Op::MakeTimestamp:
            case Op::Age:
            case Op::Format:
            case Op::CollationKey:
            case Op::SimilarTo:
            case Op::Matches:
            case Op::MatchCount:
            case Op::MatchPosition:
            case Op::MatchText:
            case Op::MatchReplace:
            case Op::NumberToText:
            case Op::MomentToText:
            case Op::TextToNumber:
            case Op::TextToDate:
            case Op::TextToTimestamp:
            case Op::MakeInterval:
            case Op::EpochToInstant:
            case Op::JustifyHours:
            case Op::JustifyDays:
            case Op::JustifyInterval:
            case Op::AtZone: return refuse(code, "SQLite has no function that gives the same");
            case Op::External: return refuse(code, "a function of the application is computed here");
            default: return refuse(code, kNumbers);
        }
    }
    Result<std::string> strftime(const Instruction& code, char part) const {
        return fmt::format("CAST(STRFTIME('%{}', {}) AS INTEGER)", part, arg(code, 0));
    }
    Result<std::string> sqliteValue(const Instruction& code, const RuleValue& value) {
        if (std::holds_alternative<Interval>(value)) return refuse(code, "SQLite has no spans of time");
        return std::holds_alternative<Empty>(value) ? std::string("NULL") : bound(value);
    }
    Result<std::string> sqliteField(const Instruction& code) { return field(code); }

    const Program& program_;
    const TableSchema& schema_;
    bool postgres_;
    const SqlOptions& options_;
    std::vector<std::string> texts_;
    SqlRule out_;
};

}  // namespace

std::string_view name(SqlDialect dialect) { return dialect == SqlDialect::PostgreSql ? "PostgreSQL" : "SQLite"; }

Result<SqlRule> sqlOf(const Program& program, const TableSchema& schema, SqlDialect dialect,
                      const SqlOptions& options) {
    return Writer(program, schema, dialect, options).run();
}

}  // namespace jollyrow
