// SPDX-License-Identifier: MIT
#pragma once
// A small table of hard values, for tests of rules: empties, ties, negatives, huge ones, texts beyond ASCII. The same
// records as a Table of ours and as SQL.

#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "core/columns/column_builder.h"
#include "core/columns/table.h"
#include "core/rules/conversion.h"

namespace jollyrow::test {

struct RecordField {
    std::string name;
    Type type;
    int scale;
    std::string sqlType;
    std::vector<std::optional<std::string>> values;
};

inline std::vector<RecordField> hardFields() {
    const auto n = std::nullopt;
    return {
        {"id",
         Type::Integer,
         0,
         "bigint",
         {"1", "2", "3", "4", "5", "6", "7", "8", "9", "10", "11", "12", "13", "14", "15", "16"}},
        {"i",
         Type::Integer,
         0,
         "bigint",
         {"0", "1", "-1", "7", "-7", "2", n, "9223372036854775807", "-9223372036854775808", "3", "100", "-3", "7", n,
          "12", "5"}},
        {"j",
         Type::Integer,
         0,
         "bigint",
         {"3", "0", "2", "-2", "3", n, "4", "1", "-1", "10", "7", "7", "7", "0", "-5", "2"}},
        {"d",
         Type::Decimal,
         2,
         "numeric(18,2)",
         {"0.00", "1.50", "-1.50", "2.35", "1000.10", n, "-0.01", "9999999999.99", "0.10", "12.34", "-7.25", "3.00",
          "2.35", "100.00", n, "0.50"}},
        {"e",
         Type::Decimal,
         6,
         "numeric(18,6)",
         {"0.000001", "3.141593", "-2.500000", "0.333333", n, "1.000000", "250.125000", "-0.000001", "7.000000",
          "0.000000", "1.005000", "2.345000", "12.340000", n, "999999.999999", "-4.750000"}},
        {"r",
         Type::Real,
         0,
         "double precision",
         {"0", "0.1", "-2.5", "1e300", "-1e-300", n, "3.5", "2.5", "0.30000000000000004", "123456789.125", "-7", "1e15",
          "100000", "0.0001", "0.00001", "1.5"}},
        {"s",
         Type::Text,
         0,
         "text",
         {"Wren", "wren", "Årsund", "", "O'Due", n, "Étoile", "été", "B10", "B2", "日本", "100%", "a_b", "  pad ",
          "wren", "ǅungla"}},
        {"u",
         Type::Text,
         0,
         "text",
         {"en", "r%", "_rs%", "", "'", "x", n, "é", "1", "B", "本", "%\\%%", "a\\_b", " ", "WREN", "ß"}},
        {"dt",
         Type::Date,
         0,
         "date",
         {"2026-11-23", "2024-02-29", "2023-12-31", "1970-01-01", n, "1999-01-03", "2000-02-29", "0101-01-01",
          "4000-12-31", "2026-01-31", "2025-03-31", "2021-01-01", "2026-11-23", n, "1900-03-01", "2020-12-31"}},
        {"du",
         Type::Date,
         0,
         "date",
         {"2026-11-24", n, "2024-01-01", "1969-12-31", "2026-05-05", "1999-01-03", "2001-02-28", "2000-01-01",
          "2026-01-01", "2026-02-28", "2025-04-30", "2020-12-31", "2026-11-23", "2010-10-10", n, "2021-01-01"}},
        {"ts",
         Type::Timestamp,
         0,
         "timestamp",
         {"2026-11-23 08:00:00", "2024-02-29 23:59:59.999999", n, "1970-01-01 00:00:00", "1969-12-31 23:59:59.5",
          "2000-01-01 12:30:00", "1999-12-31 00:00:01", "2026-05-31 10:00:00", "2026-11-23 08:00:00", n,
          "1234-05-06 07:08:09.25", "2020-02-29 00:00:00", "2026-03-31 06:00:00", "2023-01-01 01:01:01",
          "2022-10-10 10:10:10", "2021-06-15 18:45:30"}},
        {"tm",
         Type::Time,
         0,
         "time",
         {"08:00:00", n, "23:59:59.999999", "00:00:00", "12:34:56.5", "06:30:00", "18:00:00", "08:00:00", "01:02:03",
          "22:10:00", n, "15:15:15", "03:00:00", "11:11:11.111111", "09:00:00", "20:20:20"}},
        {"b",
         Type::Boolean,
         0,
         "boolean",
         {"true", "false", n, "true", "false", "true", n, "false", "true", "true", "false", "false", "true", n, "false",
          "true"}},
    };
}

inline Value valueOf(const RecordField& field, const std::string& text) {
    switch (field.type) {
        case Type::Boolean: return text == "true";
        case Type::Integer: return *integerFromText(text);
        case Type::Decimal: return *parseDecimal(text);
        case Type::Real: return *realFromText(text);
        case Type::Date: return Date{*dateFromText(text)};
        case Type::Time: return Time{*timeFromText(text)};
        case Type::Timestamp: return Timestamp{*timestampFromText(text)};
        case Type::Instant: return Instant{*parseIsoInstant(text)};
        default: return text;
    }
}

inline std::shared_ptr<const Table> tableOf(const std::vector<RecordField>& fields, std::size_t repeated = 1) {
    auto table = std::make_shared<Table>();
    table->schema.name = "records";
    for (const RecordField& field : fields) {
        FieldSchema schema;
        schema.name = field.name;
        schema.type = field.type;
        schema.scale = field.scale;
        table->schema.fields.push_back(schema);
        ColumnBuilder builder(field.type, field.scale);
        ColumnChunk chunk;
        for (std::size_t round = 0; round < repeated; ++round) {
            chunk.reset(field.type, field.scale, false);
            for (const auto& text : field.values) {
                if (!text) {
                    chunk.addEmpty();
                    continue;
                }
                const Value value = valueOf(field, *text);
                if (const auto* decimal = std::get_if<Decimal>(&value))
                    chunk.addInteger(rescaledExactly(*decimal, field.scale)->mantissa);
                else if (const auto* real = std::get_if<double>(&value))
                    chunk.addReal(*real);
                else if (const auto* words = std::get_if<std::string>(&value))
                    chunk.addText(*words);
                else if (const auto* yes = std::get_if<bool>(&value))
                    chunk.addInteger(*yes ? 1 : 0);
                else if (const auto* date = std::get_if<Date>(&value))
                    chunk.addInteger(date->days);
                else if (const auto* time = std::get_if<Time>(&value))
                    chunk.addInteger(time->micros);
                else if (const auto* moment = std::get_if<Timestamp>(&value))
                    chunk.addInteger(moment->micros);
                else if (const auto* instant = std::get_if<Instant>(&value))
                    chunk.addInteger(instant->micros);
                else
                    chunk.addInteger(std::get<std::int64_t>(value));
            }
            builder.append(chunk);
        }
        table->columns.push_back(builder.share());
        table->rows = builder.size();
    }
    return table;
}

}  // namespace jollyrow::test
