// SPDX-License-Identifier: MIT
// Covered by tests/sources/objects_test.cpp and tests/grid/tst_object_grid.cpp.
#include "core/sources/objects/objects.h"

#include <fmt/format.h>

#include <algorithm>
#include <future>
#include <limits>
#include <mutex>
#include <shared_mutex>

#include "core/sources/table_builder.h"

namespace jollyrow {

namespace {
/// Changes that are told in one turn of the window: less than half a frame.
constexpr std::size_t kMostAtOnce = 1500;
}  // namespace

/// What workers hold: it outlives the objects, and has none from then on.
class Objects::Reader final : public Source {
  public:
    explicit Reader(const Objects& objects) : objects_(&objects), schema_(objects.schema_) {}
    /// Waits for those who are getting the rows just now; those who have them keep what they have.
    void close() {
        const std::unique_lock lock(mutex_);
        objects_ = nullptr;
    }

    Result<std::vector<TableSummary>> tables(const Cancel&) const override {
        TableSummary summary;
        summary.name = schema_.name;
        if (const auto now = rows()) summary.aboutRows = static_cast<std::int64_t>(now->size());
        return std::vector<TableSummary>{summary};
    }
    Result<TableSchema> schema(const Binding& binding, const Cancel&) const override {
        if (!binding.query.empty())
            return Error{ErrorCode::Unsupported, "Objects of an application have no SELECT; filter and sort them."};
        if (binding.table != schema_.name)
            return Error{ErrorCode::NotFound,
                         fmt::format("There is no table {}: these are the objects {}.", binding.table, schema_.name)};
        return schema_;
    }
    Result<std::shared_ptr<const Table>> load(const LoadRequest& request, const Cancel& cancel) const override {
        auto known = schema(request.binding, cancel);
        if (!known) return known.error();
        const auto now = rows();
        std::vector<bool> wanted = request.wanted;
        wanted.resize(schema_.fields.size(), wanted.empty());
        TableBuilder builder(schema_, wanted, true, {});
        const std::int64_t most = request.most.value_or(std::numeric_limits<std::int64_t>::max());
        const std::size_t rows =
            std::min(now ? now->size() : 0, static_cast<std::size_t>(std::max<std::int64_t>(0, most)));
        builder.reserve(rows);
        constexpr std::size_t kFirstRows = 512, kRowsAtOnce = 16'384;  // the window shows the first ones at once
        const auto fill = [&](ChunkSet& set, std::size_t begin, std::size_t count) {
            std::size_t at = 0;
            for (std::size_t field = 0; field < wanted.size(); ++field)
                if (wanted[field]) now->fill(static_cast<FieldIndex>(field), begin, count, set.chunks[at++]);
            now->fillIds(begin, count, set.chunks[at]);
            set.rows = count;
        };
        // The next ones are read while these are put into columns.
        ChunkSet set, ahead;
        builder.prepare(set);
        std::size_t begin = 0, count = std::min(kFirstRows, rows);
        if (count > 0) fill(set, begin, count);
        while (begin < rows && !cancel.requested()) {
            const std::size_t next = begin + count, more = std::min(kRowsAtOnce, rows - next);
            builder.prepare(ahead);
            std::future<void> filled;
            if (more > 0) filled = std::async(std::launch::async, fill, std::ref(ahead), next, more);
            builder.append(set);
            if (more > 0) filled.get();
            std::swap(set, ahead);
            begin = next;
            count = more;
            builder.show(request, static_cast<std::int64_t>(rows));
        }
        if (cancel.requested()) return Error{ErrorCode::Cancelled, "Loading was cancelled."};
        builder.settle();
        return builder.finish();
    }
    Result<std::vector<LookUpEntry>> lookUp(const LookUpRequest&, const Cancel&) const override {
        return Error{ErrorCode::Unsupported, "Objects point to no other table."};
    }
    Result<std::vector<Value>> valuesOf(const RecordRequest& request) const override {
        // One of them, by its number: they are in rising order.
        const auto* id = request.key.size() == 1 ? std::get_if<std::int64_t>(&request.key[0]) : nullptr;
        const auto now = rows();
        std::size_t low = 0, high = now ? now->size() : 0;
        const auto idAt = [&](std::size_t row) {
            ColumnChunk one;
            one.reset(Type::Integer, 0, false);
            now->fillIds(row, 1, one);
            return one.integers.front();
        };
        while (id && low < high) {
            const std::size_t middle = low + (high - low) / 2;
            idAt(middle) < * id ? low = middle + 1 : high = middle;
        }
        if (!id || !now || low == now->size() || idAt(low) != *id)
            return Error{ErrorCode::NotFound, "The object is no longer there."};
        std::vector<Value> values;
        for (const FieldIndex field : request.fields) values.push_back(valueAt(*now, field, low));
        return values;
    }

  private:
    std::shared_ptr<const ObjectRows> rows() const {
        const std::shared_lock lock(mutex_);
        return objects_ ? objects_->rows() : nullptr;
    }
    Value valueAt(const ObjectRows& rows, FieldIndex field, std::size_t row) const {
        const FieldSchema& known = schema_.field(field);
        ColumnChunk one;
        one.reset(known.type, known.scale, true);
        rows.fill(field, row, 1, one);
        ColumnBuilder builder(known);
        builder.append(one);
        const auto column = builder.share();
        return column->value(SourceRow{0});
    }

    mutable std::shared_mutex mutex_;
    const Objects* objects_;  // guarded by mutex_
    const TableSchema schema_;
};

Objects::Objects(std::string name) { schema_.name = std::move(name); }

Objects::~Objects() { close(); }

void Objects::close() {
    if (reader_) reader_->close();
}

FieldIndex Objects::addField(FieldSchema field) {
    JOLLYROW_REQUIRE(owner_.isHere() && !frozen_);
    schema_.fields.push_back(std::move(field));
    return static_cast<FieldIndex>(schema_.fields.size() - 1);
}

FieldSchema& Objects::fieldAt(FieldIndex field) {
    JOLLYROW_REQUIRE(!frozen_);
    return schema_.fields[raw(field)];
}

const TableSchema& Objects::schema() const {
    frozen_ = true;
    return schema_;
}

std::shared_ptr<const Source> Objects::source() {
    frozen_ = true;
    if (!reader_) reader_ = std::make_shared<Reader>(*this);
    return reader_;
}

std::uint64_t Objects::link(Post post, Told told) {
    JOLLYROW_REQUIRE(owner_.isHere());
    links_.emplace(nextLink_, Link{std::move(post), std::move(told), {}, false, false});
    return nextLink_++;
}

void Objects::unlink(std::uint64_t link) { links_.erase(link); }

void Objects::post(std::uint64_t number, Link& link) {
    if (std::exchange(link.isPosted, true)) return;
    link.post([self = self(), number] {
        if (const auto objects = self.lock()) (*objects)->tell(number);
    });
}

void Objects::touched(ObjectId id) {
    JOLLYROW_REQUIRE(owner_.isHere());
    for (auto& [number, link] : links_) {
        if (number == writing_) continue;  // it knows
        link.touched.insert(id);
        post(number, link);
    }
}

void Objects::tellAgain(std::uint64_t number, ObjectId id) {
    const auto at = links_.find(number);
    if (at == links_.end()) return;
    at->second.touched.insert(id);
    post(number, at->second);
}

void Objects::touchedAll() {
    JOLLYROW_REQUIRE(owner_.isHere());
    for (auto& [number, link] : links_) {
        link.isAll = true;
        post(number, link);
    }
}

void Objects::tell(std::uint64_t number) {
    const auto at = links_.find(number);
    if (at == links_.end()) return;
    Link& link = at->second;
    link.isPosted = false;
    std::set<ObjectId> ids;
    if (link.touched.size() <= kMostAtOnce) {
        ids = std::exchange(link.touched, {});
    } else {
        for (std::size_t i = 0; i < kMostAtOnce; ++i) ids.insert(ids.end(), link.touched.extract(link.touched.begin()));
        post(number, link);  // the window answers in between
    }
    if (std::exchange(link.isAll, false)) link.told({});
    std::vector<ElsewhereChange> changes;
    changes.reserve(ids.size());
    for (const ObjectId id : ids) {
        auto values = valuesOf(id);
        changes.push_back({{Value(id)}, !values, values ? std::move(*values) : decltype(ElsewhereChange::values){}});
    }
    if (!changes.empty()) link.told(changes);
}

/// What was typed over is not what the object holds: it would be lost unseen.
std::optional<Objects::Refusal> Objects::staleIn(const RecordWrite& record, ObjectId id) const {
    if (record.change == RecordChange::Insert) return std::nullopt;
    if (!has(id)) return Refusal{0, "This object is no longer there.", {}};
    for (const FieldChange& change : record.changes)
        if (const Value now = valueOf(id, change.field);
            !isAsBelieved(now, change.before) && !(now == change.after && record.change == RecordChange::Update))
            return Refusal{0, "This was changed in the application meanwhile.", {change.field}};
    return std::nullopt;
}

std::variant<std::vector<StoredRecord>, Objects::Refusal> Objects::write(std::span<const RecordWrite> records,
                                                                         std::uint64_t link) {
    JOLLYROW_REQUIRE(owner_.isHere());
    const auto trial = begin();
    for (std::size_t i = 0; i < records.size(); ++i) {
        const auto* id = records[i].key.size() == 1 ? std::get_if<std::int64_t>(&records[i].key[0]) : nullptr;
        auto stale = staleIn(records[i], id ? *id : 0);
        std::vector<FieldIndex> atFault;
        if (!stale)
            if (const auto taken = tryOne(*trial, records[i], id ? *id : 0, atFault); !taken)
                stale = Refusal{0, taken.error().message, std::move(atFault)};
        if (stale) {
            stale->record = i;
            return std::move(*stale);
        }
    }
    writing_ = link;
    const std::vector<ObjectId> ids = commit(*trial);
    for (const ObjectId id : ids) touched(id);
    writing_ = 0;
    std::vector<StoredRecord> stored;
    for (std::size_t i = 0; i < records.size(); ++i) {
        StoredRecord one{{Value(ids[i])}, {}, {}};
        if (records[i].change != RecordChange::Delete) {
            for (const FieldChange& change : records[i].changes) one.values.push_back(valueOf(ids[i], change.field));
            for (const FieldIndex field : records[i].readBack) one.readBack.push_back(valueOf(ids[i], field));
        }
        stored.push_back(std::move(one));
    }
    return stored;
}

}  // namespace jollyrow
