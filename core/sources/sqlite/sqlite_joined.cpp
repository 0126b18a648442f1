// SPDX-License-Identifier: MIT
// Idea: a million records that each look for their partner in the database are a million small reads at random; the
// partners' table read once is one. Keys that are whole numbers close together are places in an array, others are
// written as bytes that are equal when the database calls the keys equal. Joins are read from the last to the first:
// those that hang on others are known when the others' records look for them. Covered by tests/sources/join_test.cpp.
#include "core/sources/sqlite/sqlite_joined.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <cstring>

#include "core/columns/column_builder.h"
#include "core/sources/sqlite/sqlite_related.h"
#include "core/sources/sqlite/sqlite_values.h"

namespace jollyrow::sqlite {
namespace {

constexpr std::size_t kBatchRows = 16384;
constexpr std::size_t kMostPlaces = std::size_t{1} << 26;  ///< of the array by key: 256 MB

/// sqlite.org/datatype3.html, 3.1.
ParentIndex::Part::Affinity affinityOf(const char* declared) {
    std::string type = declared ? declared : "";
    for (char& c : type) c = c >= 'a' && c <= 'z' ? static_cast<char>(c - 32) : c;
    const auto has = [&type](const char* word) { return type.find(word) != std::string::npos; };
    if (has("INT")) return ParentIndex::Part::Affinity::Number;
    if (has("CHAR") || has("CLOB") || has("TEXT")) return ParentIndex::Part::Affinity::Text;
    if (type.empty() || has("BLOB")) return ParentIndex::Part::Affinity::None;
    return ParentIndex::Part::Affinity::Number;
}

ParentIndex::Part::Collation collationOf(const char* name) {
    if (name && sqlite3_stricmp(name, "NOCASE") == 0) return ParentIndex::Part::Collation::NoCase;
    if (name && sqlite3_stricmp(name, "RTRIM") == 0) return ParentIndex::Part::Collation::RightTrim;
    return ParentIndex::Part::Collation::Binary;
}

template <class T>
void appendRaw(std::string& out, char tag, T value) {
    out += tag;
    char bytes[sizeof value];
    std::memcpy(bytes, &value, sizeof value);
    out.append(bytes, sizeof value);
}

void appendSized(std::string& out, char tag, std::string_view bytes) {
    appendRaw(out, tag, bytes.size());
    out += bytes;
}

void appendText(std::string& out, std::string_view text, ParentIndex::Part::Collation collation) {
    if (collation == ParentIndex::Part::Collation::RightTrim)
        while (!text.empty() && text.back() == ' ') text.remove_suffix(1);
    appendSized(out, 't', text);
    if (collation == ParentIndex::Part::Collation::NoCase)
        for (std::size_t i = out.size() - text.size(); i < out.size(); ++i)
            out[i] = out[i] >= 'A' && out[i] <= 'Z' ? static_cast<char>(out[i] + 32) : out[i];
}

bool isWhole(double value) { return value == std::floor(value) && std::abs(value) < 9.2e18; }

/// Distinct texts of a column and a code for each of its rows.
TextDictionary dictionaryOf(const Column& column) {
    StringTable table;
    GrowBuffer<std::uint32_t> codes;
    codes.reserve(column.size());
    for (std::size_t i = 0; i < column.size(); ++i) {
        const auto row = static_cast<SourceRow>(i);
        codes.push(column.isEmpty(row) ? 0 : table.codeOf(column.text(row)));
    }
    if (table.size() == 0) table.codeOf({});
    GrowBuffer<char> bytes;
    GrowBuffer<std::uint64_t> offsets;
    offsets.push(0);
    for (std::size_t code = 0; code < table.size(); ++code) {
        bytes.append(table.at(code).data(), table.at(code).size());
        offsets.push(bytes.size());
    }
    return {codes.share(), {bytes.share(), offsets.share()}};
}

}  // namespace

Result<ParentIndex> ParentIndex::of(sqlite3* connection, const std::string& table,
                                    const std::vector<std::string>& columns) {
    ParentIndex index;
    for (const std::string& column : columns) {
        const char *type = nullptr, *collation = nullptr;
        if (sqlite3_table_column_metadata(connection, "main", table.c_str(), column.c_str(), &type, &collation, nullptr,
                                          nullptr, nullptr) != SQLITE_OK)
            return errorOf(connection, fmt::format("Reading the key of {}", table));
        index.parts_.push_back({affinityOf(type), collationOf(collation)});
    }
    index.isOneNumber_ = index.parts_.size() == 1 && index.parts_[0].affinity == Part::Affinity::Number;
    return index;
}

/// The key as one whole number, where it is that; keys that are not are written as bytes.
std::optional<std::int64_t> ParentIndex::wholeNumber(sqlite3_stmt* row, const std::vector<int>& at) const {
    if (!isOneNumber_) return std::nullopt;
    sqlite3_value* value = sqlite3_column_value(row, at[0]);
    int kind = sqlite3_value_type(value);
    if (kind == SQLITE_TEXT) kind = sqlite3_value_numeric_type(value);
    if (kind == SQLITE_INTEGER) return sqlite3_value_int64(value);
    if (kind == SQLITE_FLOAT && isWhole(sqlite3_value_double(value)))
        return static_cast<std::int64_t>(sqlite3_value_double(value));
    return std::nullopt;
}

bool ParentIndex::writeKey(sqlite3_stmt* row, const std::vector<int>& at, std::string& out) const {
    out.clear();
    for (std::size_t i = 0; i < parts_.size(); ++i) {
        sqlite3_value* value = sqlite3_column_value(row, at[i]);
        int kind = sqlite3_value_type(value);
        if (kind == SQLITE_NULL) return false;
        if (parts_[i].affinity == Part::Affinity::Number && kind == SQLITE_TEXT)
            kind = sqlite3_value_numeric_type(value);
        const bool asText = parts_[i].affinity == Part::Affinity::Text && kind != SQLITE_BLOB;
        if (kind == SQLITE_TEXT || asText) {
            appendText(out, textOf(value), parts_[i].collation);
        } else if (kind == SQLITE_BLOB) {
            const auto* bytes = static_cast<const char*>(sqlite3_value_blob(value));
            appendSized(out, 'b', {bytes ? bytes : "", static_cast<std::size_t>(sqlite3_value_bytes(value))});
        } else if (kind == SQLITE_FLOAT && !isWhole(sqlite3_value_double(value))) {
            appendRaw(out, 'r', sqlite3_value_double(value));
        } else {
            appendRaw(out, 'i',
                      kind == SQLITE_FLOAT ? static_cast<std::int64_t>(sqlite3_value_double(value))
                                           : static_cast<std::int64_t>(sqlite3_value_int64(value)));
        }
    }
    return true;
}

void ParentIndex::add(sqlite3_stmt* row, const std::vector<int>& at, std::uint32_t record) {
    if (const auto number = wholeNumber(row, at)) {
        if (places_.empty() && odd_.empty()) low_ = *number;
        // The array may be some times larger than it is full.
        const auto place = static_cast<std::uint64_t>(*number) - static_cast<std::uint64_t>(low_);
        if (*number >= low_ && place < std::min<std::uint64_t>(kMostPlaces, 4096 + std::uint64_t{record} * 8)) {
            if (places_.size() <= place) places_.resize(place + 1, 0);
            if (places_[place] == 0) places_[place] = record + 1;
        } else {
            odd_.try_emplace(*number, record);
        }
        return;
    }
    std::string key;
    if (!writeKey(row, at, key)) return;
    const std::size_t before = keys_.size();
    keys_.codeOf(key);
    if (keys_.size() != before) records_.push_back(record);
}

std::optional<std::uint32_t> ParentIndex::find(sqlite3_stmt* row, const std::vector<int>& at) const {
    if (const auto number = wholeNumber(row, at)) return findNumber(*number);
    std::string key;
    return writeKey(row, at, key) ? findBytes(key) : std::nullopt;
}

std::optional<std::uint32_t> ParentIndex::findNumber(std::int64_t number) const {
    const auto place = static_cast<std::uint64_t>(number) - static_cast<std::uint64_t>(low_);
    if (number >= low_ && place < places_.size() && places_[place] != 0) return places_[place] - 1;
    const auto found = odd_.empty() ? odd_.end() : odd_.find(number);
    return found == odd_.end() ? std::nullopt : std::optional(found->second);
}

std::optional<std::uint32_t> ParentIndex::findBytes(std::string_view key) const {
    const auto code = keys_.find(key);
    return code ? std::optional(records_[*code]) : std::nullopt;
}

void ParentIndex::Keys::clear() {
    kinds_.clear();
    numbers_.clear();
    others_.clear();
    odd_.clear();
}

void ParentIndex::note(sqlite3_stmt* row, const std::vector<int>& at, Keys& keys) const {
    const auto number = wholeNumber(row, at);
    keys.numbers_.push_back(number.value_or(0));
    std::string other;
    const bool isOther = !number && writeKey(row, at, other);
    keys.kinds_.push_back(number ? Keys::Kind::Number : isOther ? Keys::Kind::Other : Keys::Kind::None);
    if (isOther) keys.others_.push_back(std::move(other));
}

void ParentIndex::findAll(const Keys& keys, std::uint32_t none, std::vector<std::uint32_t>& records) const {
    const std::size_t count = keys.kinds_.size();
    records.resize(count);
    std::size_t other = 0;
    for (std::size_t i = 0; i < count; ++i) {
        std::optional<std::uint32_t> found;
        if (keys.kinds_[i] == Keys::Kind::Number)
            found = findNumber(keys.numbers_[i]);
        else if (keys.kinds_[i] == Keys::Kind::Other)
            found = findBytes(keys.others_[other++]);
        records[i] = found.value_or(none);
    }
}

void ParentIndex::noteOdd(sqlite3_stmt* row, const std::vector<int>& at, std::uint32_t record, Keys& keys) const {
    Keys::Odd odd{record, wholeNumber(row, at), {}};
    if (odd.number || writeKey(row, at, odd.bytes)) keys.odd_.push_back(std::move(odd));
}

void ParentIndex::findAll(const ColumnChunk& numbers, const Keys& keys, std::uint32_t none,
                          std::vector<std::uint32_t>& records) const {
    const std::size_t count = numbers.integers.size();
    records.resize(count);
    const std::uint32_t* places = places_.data();
    const std::uint64_t size = places_.size(), low = static_cast<std::uint64_t>(low_);
    for (std::size_t i = 0; i < count; ++i) {
        // A number below the lowest comes out beyond the highest.
        const std::uint64_t place = static_cast<std::uint64_t>(numbers.integers[i]) - low;
        const std::uint32_t found = place < size ? places[place] : 0;
        records[i] = found != 0 ? found - 1 : none;
    }
    if (!odd_.empty())
        for (std::size_t i = 0; i < count; ++i)
            if (records[i] == none) records[i] = findNumber(numbers.integers[i]).value_or(none);
    for (const std::uint32_t row : numbers.emptyRows) records[row] = none;
    for (const Keys::Odd& odd : keys.odd_)
        records[odd.record] = (odd.number ? findNumber(*odd.number) : findBytes(odd.bytes)).value_or(none);
}

Result<JoinedTables> JoinedTables::of(sqlite3* connection, const TableSchema& schema, const std::vector<bool>& wanted) {
    JoinedTables all;
    all.related_.resize(schema.joins.size());
    for (std::size_t i = 0; i < schema.fields.size(); ++i)
        for (int at = wanted[i] ? schema.fields[i].join : 0; at != 0;
             at = schema.joins[static_cast<std::size_t>(at) - 1].parent)
            all.related_[static_cast<std::size_t>(at) - 1].wanted = true;
    for (std::size_t n = 0; n < schema.joins.size(); ++n) {
        if (!all.related_[n].wanted) continue;
        auto index = ParentIndex::of(connection, schema.joins[n].table, schema.joins[n].targetFields);
        if (!index) return index.error();
        all.related_[n].index = std::move(*index);
        const int parent = schema.joins[n].parent;
        parent == 0 ? all.roots_.push_back(n)
                    : all.related_[static_cast<std::size_t>(parent) - 1].children.push_back(n);
    }
    all.filled_ = all.roots_.empty();
    return all;
}

Result<void> JoinedTables::fill(sqlite3* connection, const TableSchema& schema, const std::vector<bool>& wanted,
                                const Cancel& cancel) {
    if (filled_) return {};
    for (std::size_t n = schema.joins.size(); n-- > 0;)
        if (related_[n].wanted)
            if (auto done = readOne(connection, schema, wanted, n, cancel); !done) return done;
    filled_ = true;
    return {};
}

Result<void> JoinedTables::readOne(sqlite3* connection, const TableSchema& schema, const std::vector<bool>& wanted,
                                   std::size_t join, const Cancel& cancel) {
    Related& own = related_[join];
    own.childOf.resize(own.children.size());
    std::string columns;
    int count = 0;
    const auto selectSql = [&](const std::string& sql) {
        columns += (columns.empty() ? "" : ", ") + sql;
        return count++;
    };
    const auto select = [&](const std::vector<std::string>& names) {
        std::vector<int> at;
        for (const std::string& name : names) at.push_back(selectSql(quotedName(name)));
        return at;
    };
    const std::vector<int> key = select(schema.joins[join].targetFields);
    std::vector<std::vector<int>> links;
    for (const std::size_t child : own.children) links.push_back(select(schema.joins[child].fields));
    std::vector<FieldIndex> fields;
    std::vector<ColumnBuilder> builders;
    std::vector<ColumnChunk> chunks;
    const int firstField = count;
    for (std::size_t i = 0; i < schema.fields.size(); ++i) {
        const FieldSchema& field = schema.fields[i];
        if (!wanted[i] || field.join != static_cast<int>(join) + 1) continue;
        selectSql(loadedSql(field, quotedName(field.column)));
        fields.push_back(static_cast<FieldIndex>(i));
        builders.emplace_back(field);
        chunks.emplace_back().reset(field.type, field.scale, true);  // texts are told apart once, at the end
    }
    auto statement =
        prepare(connection, fmt::format("SELECT {} FROM {}", columns, quotedName(schema.joins[join].table)));
    if (!statement) return statement.error();
    sqlite3_stmt* row = statement->get();
    const auto flush = [&] {
        for (std::size_t f = 0; f < fields.size(); ++f) {
            builders[f].append(chunks[f]);
            chunks[f].reset(schema.field(fields[f]).type, schema.field(fields[f]).scale, builders[f].prefersArena());
        }
    };
    int code = SQLITE_ROW;
    for (std::uint32_t record = 0; (code = sqlite3_step(row)) == SQLITE_ROW; ++record) {
        own.index->add(row, key, record);
        for (std::size_t c = 0; c < own.children.size(); ++c)
            own.childOf[c].push_back(related_[own.children[c]].index->find(row, links[c]).value_or(kNone));
        for (std::size_t f = 0; f < fields.size(); ++f)
            decodeInto(chunks[f], sqlite3_column_value(row, firstField + static_cast<int>(f)), schema.field(fields[f]));
        if (record % kBatchRows != kBatchRows - 1) continue;
        flush();
        if (cancel.requested()) return Error{ErrorCode::Cancelled, "Loading was cancelled."};
    }
    if (code != SQLITE_DONE) return errorOf(connection, fmt::format("Reading {}", schema.joins[join].table));
    flush();
    for (std::size_t f = 0; f < fields.size(); ++f) {
        Values values{join, builders[f].share(), std::nullopt};
        if (values.column->type() == Type::Text) values.texts = dictionaryOf(*values.column);
        values_.emplace(raw(fields[f]), std::move(values));
    }
    return {};
}

const TextArena* JoinedTables::textsOf(FieldIndex field) const {
    const auto found = values_.find(raw(field));
    return found == values_.end() || !found->second.texts ? nullptr : &found->second.texts->distinct;
}

void JoinedTables::clear(Keys& keys) const {
    keys.resize(roots_.size());
    for (ParentIndex::Keys& of : keys) of.clear();
}

void JoinedTables::findPartners(const std::vector<const ColumnChunk*>& numbers, const Keys& keys,
                                Partners& partners) const {
    partners.resize(related_.size());
    for (std::size_t root = 0; root < roots_.size(); ++root)
        numbers[root] ? index(root).findAll(*numbers[root], keys[root], kNone, partners[roots_[root]])
                      : index(root).findAll(keys[root], kNone, partners[roots_[root]]);
    // A join stands behind the one it hangs on.
    for (std::size_t n = 0; n < related_.size(); ++n)
        for (std::size_t c = 0; c < related_[n].children.size(); ++c) {
            std::vector<std::uint32_t>& to = partners[related_[n].children[c]];
            to.clear();
            for (const std::uint32_t at : partners[n]) to.push_back(at == kNone ? kNone : related_[n].childOf[c][at]);
        }
}

void JoinedTables::gather(FieldIndex field, const Partners& partners, ColumnChunk& into) const {
    const Values& values = values_.at(raw(field));
    const Column& column = *values.column;
    if (values.texts && column.emptyCount() == 0) {
        const std::uint32_t* codes = values.texts->codes.data();
        for (const std::uint32_t partner : partners[values.join]) {
            if (partner == kNone) into.emptyRows.push_back(static_cast<std::uint32_t>(into.rows));
            into.codes.push_back(partner == kNone ? 0 : codes[partner]);
            ++into.rows;
        }
        return;
    }
    for (const std::uint32_t partner : partners[values.join]) {
        const auto row = static_cast<SourceRow>(partner);
        if (partner == kNone) {
            into.addEmpty();
        } else if (column.isEmpty(row)) {
            const auto odd = column.misfits(partner, 1);
            odd.empty() ? into.addEmpty() : into.addMisfit(odd[0].text, odd[0].stored);
        } else if (values.texts) {
            into.codes.push_back(values.texts->codes[partner]);
            ++into.rows;
        } else if (column.type() == Type::Real) {
            into.addReal(column.real(row));
        } else if (isBytes(column.type())) {
            into.addText(column.text(row));
        } else {
            into.addWide(column.type() == Type::Decimal ? column.decimal(row).mantissa : Int128{column.integer(row)});
        }
    }
}

}  // namespace jollyrow::sqlite
