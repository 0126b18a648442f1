// SPDX-License-Identifier: MIT
#pragma once
// Rows by COPY in binary form (PostgreSQL's documentation, COPY, "Binary Format"), field by field into a sink with
// `cell(place, bytes or nullopt)` and `endRow()`.

#include <optional>
#include <string>
#include <string_view>
#include <utility>

#include "core/sources/postgres/pg_connection.h"
#include "core/sources/postgres/pg_plan.h"
#include "core/sources/postgres/pg_values.h"
#include "core/sources/table_builder.h"

namespace jollyrow::postgres {

inline Error damagedRow() { return {ErrorCode::Io, "The server sent something that is no record."}; }

/// A field of a row, into the chunk that takes it.
inline void addCell(ChunkSet& set, const TableSchema& schema, const LoadPlan& plan, std::size_t at,
                    std::optional<std::string_view> bytes) {
    if (at >= plan.loaded.size()) return;
    const FieldSchema& field = schema.field(plan.loaded[at]);
    ColumnChunk& chunk = set.chunks[at];
    if (!bytes)
        chunk.addEmpty();
    else if (field.unread)
        chunk.addText(*bytes);
    else
        decodeInto(chunk, field, *bytes);
}

/// One row: a count of fields, then a length and the bytes of each. False at the end.
template <class Sink>
Result<bool> takeCopied(std::string_view row, Sink& sink) {
    const auto number = [&row](std::size_t bytes) -> std::int64_t {
        std::uint64_t value = 0;
        for (std::size_t i = 0; i < bytes; ++i) value = (value << 8) | static_cast<unsigned char>(row[i]);
        row.remove_prefix(bytes);
        return bytes == 2 ? static_cast<std::int64_t>(static_cast<std::int16_t>(value))
                          : static_cast<std::int64_t>(static_cast<std::int32_t>(value));
    };
    if (row.size() < 2) return damagedRow();
    const std::int64_t count = number(2);
    if (count < 0) return false;
    for (std::int64_t at = 0; at < count; ++at) {
        if (row.size() < 4) return damagedRow();
        const std::int64_t length = number(4);
        if (length > static_cast<std::int64_t>(row.size())) return damagedRow();
        if (length < 0) {
            sink.cell(static_cast<std::size_t>(at), std::nullopt);
            continue;
        }
        sink.cell(static_cast<std::size_t>(at), row.substr(0, static_cast<std::size_t>(length)));
        row.remove_prefix(static_cast<std::size_t>(length));
    }
    sink.endRow();
    return true;
}

template <class Sink>
Result<void> copyRows(Connection& connection, const std::string& select, Sink& sink, const Cancel& cancel) {
    constexpr std::size_t kSignature = 11;  // then flags and the length of what may follow
    auto begun = connection.run("COPY (" + select + ") TO STDOUT (FORMAT binary)", {}, cancel);
    if (!begun) return begun.error();
    bool isFirst = true;
    for (;;) {
        auto row = connection.copied(cancel);
        if (!row) return row.error();
        if (!*row) return {};
        if (cancel.requested()) continue;  // what is under way comes to its end first
        std::string_view bytes = **row;
        if (std::exchange(isFirst, false)) {
            if (bytes.size() < kSignature + 8) return damagedRow();
            bytes.remove_prefix(kSignature + 8);
            if (bytes.empty()) continue;
        }
        if (auto taken = takeCopied(bytes, sink); !taken) return taken.error();
    }
}

}  // namespace jollyrow::postgres
