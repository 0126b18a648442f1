// SPDX-License-Identifier: MIT
#pragma once
// What a source says about its tables: fields, keys, links, constraints. Plain values; made by a Source, read by all.

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "core/base/indexes.h"
#include "core/columns/read_as.h"
#include "core/columns/type.h"

namespace jollyrow {

struct FieldSchema {
    std::string name;
    std::string declaredType;  ///< as the database words it, e.g. "DECIMAL(12,2)"
    Type type = Type::Text;
    Use use = Use::Plain;
    int scale = 0;           ///< decimals of a Decimal
    int precision = 0;       ///< all digits of a Decimal, 0 when not stated
    int maxLength = 0;       ///< code points of a text, 0 when not stated
    bool required = false;   ///< NOT NULL
    bool unique = false;     ///< alone unique, a one-column primary key included
    int primaryKeyRank = 0;  ///< 1 for the first column of the primary key, 0 when not in it
    bool generated = false;  ///< computed by the database: never written
    std::optional<std::string> defaultSql;
    std::vector<std::string> permitted = {};  ///< from CHECK (x IN (…)) or an enum; in stated order
    bool ordered = false;  ///< of an enum: its values are compared and sorted as `permitted` states them
    int join = 0;             ///< 0: of the table itself; n: of joins[n - 1], reached by foreign keys and never written
    std::string column = {};  ///< its name in the joined table; "" for a field of the table itself
    std::string rule = {};    ///< of a computed field: the expression its values come from; no source knows it
    bool openScale = false;   ///< a Decimal without a stated size: `scale` is what its values need, shown unpadded
    ReadAs stored = {};       ///< how its values stand in the table
    StoredStyle style = {};   ///< how its texts are written there
    /// Of binary data: it stays in the database, records hold how long it is (Unread).
    bool unread = false;
    std::string zone = {};     ///< of an Instant: whose clocks show it (TimeZone::named); "" = the machine's
    std::string comment = {};  ///< what the database says of it to people (COMMENT ON COLUMN)
    bool operator==(const FieldSchema&) const = default;
};

struct ForeignKey {
    std::vector<std::string> fields;
    std::string table;
    std::vector<std::string> targetFields;
    std::string label = {};  ///< field of the target that stands for its records; "" when none does
    std::vector<std::string> targetChoices = {};  ///< the target's fields that could, in its order
    bool operator==(const ForeignKey&) const = default;
};

/// Another table reached by a foreign key, joined to the records (each record has at most one partner).
struct Join {
    std::string path;  ///< "vessel", "vessel.owner": the foreign keys followed
    std::string table;
    int parent = 0;  ///< 0: the table itself; n: joins[n - 1]
    std::vector<std::string> fields;
    std::vector<std::string> targetFields;
    bool operator==(const Join&) const = default;
};

struct TableSchema {
    std::string name;
    bool isView = false;
    bool writable = true;                  ///< false for views, queries, read-only files
    std::string whyNotWritable;            ///< in words, when not writable
    std::optional<std::int64_t> rowCount;  ///< when cheaply known
    std::vector<FieldSchema> fields;       ///< the table's own, then related ones, then computed ones
    std::vector<ForeignKey> foreignKeys;
    std::vector<Join> joins;  ///< for the related fields, which stand behind the table's own in `fields`
    std::vector<std::vector<std::string>> uniqueKeys;
    std::vector<std::string> checks;  ///< texts of CHECK constraints
    std::string zone = {};            ///< as in its fields; dates and times of rules are those of its clocks
    bool operator==(const TableSchema&) const = default;

    std::optional<FieldIndex> find(std::string_view field) const;
    /// How many of the fields come from the source; the ones behind them are computed.
    std::size_t storedFields() const;
    const FieldSchema& field(FieldIndex index) const { return fields[raw(index)]; }
};

}  // namespace jollyrow
