// SPDX-License-Identifier: MIT
#include "core/sources/table_builder.h"

#include <atomic>
#include <future>
#include <thread>

#include "core/columns/room.h"

namespace jollyrow {
namespace {
constexpr auto kShowEvery = std::chrono::milliseconds(200);
}

TableBuilder::TableBuilder(TableSchema schema, std::vector<bool> wanted, bool withRowIds,
                           std::vector<FieldIndex> keyFields)
    : schema_(std::move(schema)), withRowIds_(withRowIds), keyFields_(std::move(keyFields)) {
    for (std::size_t i = 0; i < schema_.fields.size(); ++i) {
        if (!wanted[i]) continue;
        loaded_.push_back(static_cast<FieldIndex>(i));
        builders_.emplace_back(schema_.fields[i]);
    }
    if (withRowIds_) builders_.emplace_back(Type::Integer, 0);
}

void TableBuilder::reserve(std::size_t rows) {
    expectedRows_ = rows;
    for (ColumnBuilder& builder : builders_) builder.reserve(rows + roomFor(schema_.fields.size()));
}

void TableBuilder::giveTexts(FieldIndex field, TextArena texts) {
    for (std::size_t i = 0; i < loaded_.size(); ++i)
        if (loaded_[i] == field) {
            builders_[i] = ColumnBuilder(std::move(texts));
            builders_[i].reserve(expectedRows_);
            return;
        }
}

void TableBuilder::prepare(ChunkSet& set) const {
    set.chunks.resize(builders_.size());
    set.rows = 0;
    for (std::size_t i = 0; i < loaded_.size(); ++i) {
        const FieldSchema& field = schema_.field(loaded_[i]);
        set.chunks[i].reset(field.type, field.scale, builders_[i].prefersArena());
    }
    if (withRowIds_) set.chunks.back().reset(Type::Integer, 0, false);
}

void TableBuilder::append(const ChunkSet& set) {
    for (std::size_t i = 0; i < set.chunks.size(); ++i) builders_[i].append(set.chunks[i]);
    rows_ += set.rows;
}

std::shared_ptr<const Table> TableBuilder::share(bool complete) const {
    auto table = std::make_shared<Table>();
    table->schema = schema_;
    table->columns.resize(schema_.fields.size());
    for (std::size_t i = 0; i < loaded_.size(); ++i) table->columns[raw(loaded_[i])] = builders_[i].share();
    if (withRowIds_) table->rowIds = builders_.back().share();
    table->keyFields = keyFields_;
    table->rows = rows_;
    table->complete = complete;
    return table;
}

std::shared_ptr<const Table> TableBuilder::finish() {
    if (!schema_.writable) return share(true);
    auto whole = std::const_pointer_cast<Table>(share(true));
    const std::size_t spare = roomFor(schema_.fields.size());
    ChunkSet room;
    prepare(room);
    for (ColumnChunk& chunk : room.chunks)
        for (std::size_t i = 0; i < spare; ++i) chunk.addEmpty();
    room.rows = spare;
    append(room);
    auto roomy = std::const_pointer_cast<Table>(share(true));
    roomy->spare = spare;
    whole->roomy = std::move(roomy);
    return whole;
}

void TableBuilder::settle() {
    // Nothing is read any more: the processor that read is free for every other column.
    std::atomic<std::size_t> next{0};
    const auto work = [&] {
        for (std::size_t i = next++; i < builders_.size(); i = next++) builders_[i].settle();
    };
    constexpr std::size_t kLeastRows = 100'000;
    std::future<void> beside;
    if (rows_ >= kLeastRows && std::thread::hardware_concurrency() > 1) beside = std::async(std::launch::async, work);
    work();
    if (beside.valid()) beside.get();
}

double TableBuilder::millisecondsSoFar() const {
    return std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - begun_).count();
}

void TableBuilder::show(const LoadRequest& request, std::optional<std::int64_t> total) {
    if (!request.onPart || rows_ == 0) return;
    const auto now = std::chrono::steady_clock::now();
    if (shown_ && now - *shown_ < kShowEvery) return;
    shown_ = now;
    request.onPart(share(false),
                   {static_cast<std::int64_t>(rows_), total, millisecondsSoFar(), total ? total : about_});
}

}  // namespace jollyrow
