// SPDX-License-Identifier: MIT
// Covered by tests/sources/postgres_test.cpp and conformance_test.cpp. Bench: bench/server_bench.cpp.
#include "core/sources/postgres/pg_load.h"

#include <fmt/format.h>

#include <algorithm>
#include <set>

#include "core/base/out_of_memory.h"
#include "core/rules/query_parameters.h"
#include "core/sources/postgres/pg_schema.h"
#include "core/sources/postgres/pg_values.h"
#include "core/sources/table_builder.h"

namespace jollyrow::postgres {
namespace {

constexpr std::size_t kBatch = 8192;       // records that are given on together
constexpr std::int64_t kFirstShown = 200;  // more lines than a tall screen has

struct Plan {
    std::vector<bool> wanted;
    std::vector<FieldIndex> loaded, keyFields;
    std::string select;
    std::vector<Parameter> parameters;
    bool isQuery = false;
};

/// As it stands in a SELECT; of data that stays in the database only how long it is.
std::string loadedSql(const FieldSchema& field, const std::string& column) {
    return field.unread ? fmt::format("octet_length({})::text", column) : selected(field, column);
}

Result<Plan> planOf(Connection& connection, const TableSchema& schema, const LoadRequest& request,
                    const Cancel& cancel) {
    Plan plan;
    plan.isQuery = !request.binding.query.empty();
    plan.wanted = request.wanted;
    if (plan.wanted.size() != schema.fields.size()) {
        plan.wanted.assign(schema.fields.size(), true);
        for (std::size_t i = 0; i < schema.fields.size(); ++i) plan.wanted[i] = schema.fields[i].type != Type::Binary;
    }
    if (schema.writable) plan.keyFields = keyOf(schema);
    for (const FieldIndex field : plan.keyFields) plan.wanted[raw(field)] = true;
    std::string columns;
    std::vector<int> joins;
    for (std::size_t i = 0; i < schema.fields.size(); ++i) {
        if (!plan.wanted[i]) continue;
        const FieldSchema& field = schema.fields[i];
        plan.loaded.push_back(static_cast<FieldIndex>(i));
        // The columns of a SELECT by place: their names need not be ones.
        columns += (columns.empty() ? "" : ", ") +
                   loadedSql(field, plan.isQuery ? fmt::format("q.c{}", i + 1) : columnSql(field));
        if (field.join != 0) joins.push_back(field.join);
    }
    if (columns.empty()) columns = "NULL::text";
    if (plan.isQuery) {
        std::set<std::string> empty;
        for (const std::string& name : parametersIn(request.binding.query))
            if (const auto given = request.parameters.find(name);
                given == request.parameters.end() || isEmpty(given->second))
                empty.insert(name);
        const auto numbered = withNumbers(withoutConditionsOn(request.binding.query, empty));
        for (const std::string& name : numbered.names) {
            const auto given = request.parameters.find(name);
            plan.parameters.push_back(given == request.parameters.end() ? std::nullopt : encoded(given->second, {}));
        }
        std::string query = numbered.query;
        while (!query.empty() && (query.back() == ';' || query.back() == ' ' || query.back() == '\n')) query.pop_back();
        std::string names;
        for (std::size_t i = 0; i < schema.fields.size(); ++i) names += fmt::format("{}c{}", i == 0 ? "" : ", ", i + 1);
        plan.select = fmt::format("SELECT {} FROM ({}\n) AS q({})", columns, query, names);
        return plan;
    }
    auto from = fromSql(connection, schema, joins, cancel);
    if (!from) return from.error();
    std::string order;
    for (const FieldIndex field : keyOf(schema))
        order += (order.empty() ? " ORDER BY " : ", ") + columnSql(schema.field(field));
    plan.select = "SELECT " + columns + " FROM " + *from + order;
    return plan;
}

/// Takes rows into a table, some thousand at a time.
class Rows {
  public:
    Rows(const TableSchema& schema, const Plan& plan, const LoadRequest& request)
        : schema_(schema), plan_(plan), request_(request), builder_(schema, plan.wanted, false, plan.keyFields) {
        builder_.prepare(set_);
    }
    void cell(std::size_t at, std::optional<std::string_view> bytes) {
        if (at >= plan_.loaded.size()) return;
        const FieldSchema& field = schema_.field(plan_.loaded[at]);
        ColumnChunk& chunk = set_.chunks[at];
        if (!bytes)
            chunk.addEmpty();
        else if (field.unread)
            chunk.addText(*bytes);
        else
            decodeInto(chunk, field, *bytes);
    }
    void endRow() {
        ++set_.rows;
        if (set_.rows == kBatch || (builder_.rows() == 0 && set_.rows == kFirstShown)) giveOn();
    }
    std::size_t count() const { return builder_.rows() + set_.rows; }
    std::shared_ptr<const Table> finish() {
        giveOn();
        builder_.settle();
        return builder_.finish();
    }
    std::shared_ptr<const Table> soFar() {
        giveOn();
        return builder_.share(false);
    }

  private:
    void giveOn() {
        if (set_.rows == 0) return;
        builder_.append(set_);
        builder_.prepare(set_);
        builder_.show(request_, std::nullopt);
    }
    const TableSchema& schema_;
    const Plan& plan_;
    const LoadRequest& request_;
    TableBuilder builder_;
    ChunkSet set_;
};

void take(const Answer& answer, Rows& rows) {
    for (int row = 0; row < answer.rows(); ++row) {
        for (int column = 0; column < answer.columns(); ++column)
            rows.cell(static_cast<std::size_t>(column),
                      answer.isNull(row, column) ? std::nullopt : std::optional(answer.bytes(row, column)));
        rows.endRow();
    }
}

Error damaged() { return {ErrorCode::Io, "The server sent something that is no record."}; }

/// One row of COPY's binary form: a count of fields, then a length and the bytes of each. False at the end.
Result<bool> takeCopied(std::string_view row, Rows& rows) {
    const auto number = [&row](std::size_t bytes) -> std::int64_t {
        std::uint64_t value = 0;
        for (std::size_t i = 0; i < bytes; ++i) value = (value << 8) | static_cast<unsigned char>(row[i]);
        row.remove_prefix(bytes);
        return bytes == 2 ? static_cast<std::int64_t>(static_cast<std::int16_t>(value))
                          : static_cast<std::int64_t>(static_cast<std::int32_t>(value));
    };
    if (row.size() < 2) return damaged();
    const std::int64_t count = number(2);
    if (count < 0) return false;
    for (std::int64_t at = 0; at < count; ++at) {
        if (row.size() < 4) return damaged();
        const std::int64_t length = number(4);
        if (length > static_cast<std::int64_t>(row.size())) return damaged();
        if (length < 0) {
            rows.cell(static_cast<std::size_t>(at), std::nullopt);
            continue;
        }
        rows.cell(static_cast<std::size_t>(at), row.substr(0, static_cast<std::size_t>(length)));
        row.remove_prefix(static_cast<std::size_t>(length));
    }
    rows.endRow();
    return true;
}

Result<void> copyAll(Connection& connection, const std::string& select, Rows& rows, const Cancel& cancel) {
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
            if (bytes.size() < kSignature + 8) return damaged();
            bytes.remove_prefix(kSignature + 8);
            if (bytes.empty()) continue;
        }
        if (auto taken = takeCopied(bytes, rows); !taken) return taken.error();
    }
}

Result<void> fetchAll(Connection& connection, const Plan& plan, std::optional<std::int64_t> most, Rows& rows,
                      const Cancel& cancel) {
    auto begun = connection.run("DECLARE jollyrow_rows NO SCROLL CURSOR FOR " + plan.select, plan.parameters, cancel);
    if (!begun) return begun.error();
    for (std::int64_t turn = kFirstShown;; turn = static_cast<std::int64_t>(kBatch)) {
        const std::int64_t left = most ? *most - static_cast<std::int64_t>(rows.count()) : turn;
        if (left <= 0) return {};
        const std::int64_t asked = std::min(turn, left);
        auto some = connection.run(fmt::format("FETCH {} FROM jollyrow_rows", asked), {}, cancel);
        if (!some) return some.error();
        take(*some, rows);
        if (some->rows() < asked) return {};
    }
}

Result<void> showFirst(Connection& connection, const TableSchema& schema, const Plan& plan, const LoadRequest& request,
                       const Cancel& cancel) {
    auto first = connection.run(fmt::format("{} LIMIT {}", plan.select, kFirstShown), {}, cancel);
    if (!first) return first.error();
    if (first->rows() == 0) return {};
    LoadRequest quiet = request;
    quiet.onPart = {};
    Rows rows(schema, plan, quiet);
    take(*first, rows);
    auto part = rows.soFar();
    request.onPart(part, {static_cast<std::int64_t>(part->rows), std::nullopt, 0});
    return {};
}

Result<std::shared_ptr<const Table>> loadInside(Connection& connection, const LoadRequest& request,
                                                const Cancel& cancel) {
    auto schema = readSchema(connection, request.binding, cancel);
    if (!schema) return schema.error();
    if (request.binding.query.empty()) {
        auto own = tableSql(connection, schema->name, cancel);
        if (!own) return own.error();
        if (auto fitted = fitScales(connection, *schema, *own, std::nullopt, cancel); !fitted) return fitted.error();
    }
    auto plan = planOf(connection, *schema, request, cancel);
    if (!plan) return plan.error();
    Rows rows(*schema, *plan, request);
    Result<void> done;
    if (plan->isQuery) {
        done = fetchAll(connection, *plan, request.most, rows, cancel);
    } else {
        // Without a key there is no order, and the first ones need not be those that all begin with.
        if (request.onPart && !request.most && !keyOf(*schema).empty())
            done = showFirst(connection, *schema, *plan, request, cancel);
        const std::string limit = request.most ? fmt::format(" LIMIT {}", *request.most) : std::string();
        if (done) done = copyAll(connection, plan->select + limit, rows, cancel);
    }
    if (cancel.requested()) return Error{ErrorCode::Cancelled, "Loading was cancelled."};
    if (!done) return done.error();
    return rows.finish();
}

}  // namespace

Result<std::shared_ptr<const Table>> loadTable(Connection& connection, const LoadRequest& request,
                                               const Cancel& cancel) {
    if (cancel.requested()) return Error{ErrorCode::Cancelled, "Loading was cancelled."};
    auto begun = connection.run("BEGIN ISOLATION LEVEL REPEATABLE READ, READ ONLY", {}, cancel);
    if (!begun) return begun.error();
    return withinMemory("Loading", [&] { return loadInside(connection, request, cancel); });
}

}  // namespace jollyrow::postgres
