// SPDX-License-Identifier: MIT
#pragma once
// The index spaces of the product, as types of their own so that one is never taken for another.

#include <cstddef>
#include <cstdint>

namespace jollyrow {

/// The n-th record of a Table, in bound order. At most 2^32 - 1 records in memory.
enum class SourceRow : std::uint32_t {};
/// Stands for none, e.g. on a line that is no record.
inline constexpr SourceRow kNoRow{0xFFFF'FFFF};
/// The n-th line of a view: what stands there is told by Snapshot::line().
enum class ViewLine : std::int64_t {};
/// The n-th field of a TableSchema, which is also the n-th column of a Table.
enum class FieldIndex : std::uint32_t {};

constexpr std::uint32_t raw(SourceRow row) { return static_cast<std::uint32_t>(row); }
constexpr std::int64_t raw(ViewLine line) { return static_cast<std::int64_t>(line); }
constexpr std::uint32_t raw(FieldIndex field) { return static_cast<std::uint32_t>(field); }

}  // namespace jollyrow
