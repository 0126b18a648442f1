// SPDX-License-Identifier: MIT
// Columns are searched one after the other, each giving bits; bits of one part over several columns are joined by OR,
// parts by AND. Covered by tests/grid/tst_filters.cpp.
#include "core/design/find.h"
#include "core/columns/room.h"

#include <algorithm>
#include <bit>

#include "core/base/trimmed.h"
#include "core/design/cell_text.h"
#include "core/design/planned_banner.h"
#include "core/rules/utf8.h"

namespace jollyrow {
namespace {

constexpr std::size_t kPollEvery = 4096;

std::optional<std::size_t> columnCalled(std::string_view name, const ViewPlan& plan) {
    const std::string wanted = lowered(trimmed(name));
    for (std::size_t i = 0; i < plan.columns.size(); ++i)
        if (lowered(plan.columns[i].design.heading) == wanted || lowered(plan.columns[i].design.field) == wanted)
            return i;
    return std::nullopt;
}

/// True when each distinct text of the column is shown as it is stored.
const TextDictionary* plainTexts(const PlannedColumn& column, const Snapshot& snapshot) {
    const FieldIndex field = column.label.value_or(column.field);
    const Column* stored = snapshot.table->column(field);
    if (!stored || stored->type() != Type::Text || column.formatter->isMessage() || column.face) return nullptr;
    if (!column.format.spec.prefix.empty() || !column.format.spec.suffix.empty()) return nullptr;
    return std::get_if<TextDictionary>(&stored->storage());
}

bool search(const std::string& text, const PlannedColumn& column, const Snapshot& snapshot,
            std::vector<std::uint64_t>& bits, const Cancel& cancel) {
    const std::size_t rows = snapshot.table->rows;
    std::vector<bool> byCode;
    const TextDictionary* dictionary = plainTexts(column, snapshot);
    const Column* stored = dictionary ? snapshot.table->column(column.label.value_or(column.field)) : nullptr;
    if (dictionary) {
        byCode.resize(dictionary->distinct.size());
        for (std::size_t code = 0; code < byCode.size(); ++code)
            byCode[code] = lowered(dictionary->distinct.at(code)).find(text) != std::string::npos;
    }
    CellText cell;
    CellReader cells(snapshot, column);
    for (std::size_t i = 0; i < rows; ++i) {
        if (i % kPollEvery == 0 && cancel.requested()) return false;
        const auto row = static_cast<SourceRow>(i);
        bool found;
        const bool edited = snapshot.edits && !snapshot.edits->empty() && snapshot.edits->find(row, column.field);
        if (dictionary && !edited && !stored->isEmpty(row)) {
            found = byCode[dictionary->codes[i]];
        } else {
            cells.read(row, cell);
            found = !cell.isEmpty && lowered(cell.text).find(text) != std::string::npos;
        }
        if (found) bits[i >> 6] |= std::uint64_t{1} << (i & 63);
    }
    return true;
}

/// A record that is drawn as a heading shows its caption, and nothing else.
void findBanners(const std::string& text, const Snapshot& snapshot, const ViewPlan& plan,
                 std::vector<std::uint64_t>& bits) {
    BannerReader reader(snapshot, plan);
    std::string caption;
    for (const auto& banners : snapshot.banners)
        for (std::size_t w = 0; w < std::min(bits.size(), banners.set->bits.size()); ++w)
            for (std::uint64_t left = banners.set->bits[w]; left != 0; left &= left - 1) {
                const auto row = static_cast<SourceRow>(w * 64 + static_cast<std::size_t>(std::countr_zero(left)));
                const PlannedBanner* banner = reader.of(row);
                if (!banner) continue;
                caption.clear();
                reader.appendCaption(row, *banner, caption);
                const std::uint64_t bit = std::uint64_t{1} << (raw(row) & 63);
                const bool found = lowered(caption).find(text) != std::string::npos;
                bits[w] = found ? bits[w] | bit : bits[w] & ~bit;
            }
}

}  // namespace

bool FindQuery::marks(std::size_t column, std::string_view lower) const {
    return std::any_of(parts.begin(), parts.end(), [&](const FindPart& part) {
        return (!part.column || *part.column == column) && lower.find(part.text) != std::string_view::npos;
    });
}

FindQuery findQuery(std::string_view text, const ViewPlan& plan) {
    FindQuery query;
    const std::string_view whole = trimmed(text);
    if (whole.empty()) return query;
    std::vector<FindPart> named;
    bool allNamed = true;
    for (std::size_t start = 0; start <= whole.size() && allNamed;) {
        const std::size_t comma = std::min(whole.find(',', start), whole.size());
        const std::string_view piece = trimmed(whole.substr(start, comma - start));
        const std::size_t colon = piece.find(':');
        const auto column = colon == std::string_view::npos ? std::nullopt : columnCalled(piece.substr(0, colon), plan);
        if (column) {
            if (const std::string_view value = trimmed(piece.substr(colon + 1)); !value.empty())
                named.push_back({lowered(value), column});
        } else if (!piece.empty()) {
            allNamed = false;
        }
        start = comma + 1;
    }
    if (allNamed)
        query.parts = std::move(named);
    else
        query.parts.push_back({lowered(whole), std::nullopt});
    return query;
}

Result<std::shared_ptr<const RecordSet>> findRecords(const FindQuery& query, const Snapshot& snapshot,
                                                     const ViewPlan& plan, const Cancel& cancel) {
    auto found = std::make_shared<RecordSet>();
    found->rows = snapshot.table->rows;
    found->bits.assign((found->rows + 63) / 64, query.empty() ? 0 : ~std::uint64_t{0});
    if (!found->bits.empty() && found->rows % 64 != 0)
        found->bits.back() &= (std::uint64_t{1} << (found->rows % 64)) - 1;
    for (const FindPart& part : query.parts) {
        std::vector<std::uint64_t> bits(found->bits.size());
        for (std::size_t i = 0; i < plan.columns.size(); ++i) {
            if (part.column && *part.column != i) continue;
            if (!search(part.text, plan.columns[i], snapshot, bits, cancel))
                return Error{ErrorCode::Cancelled, "Finding was cancelled."};
        }
        if (!part.column) findBanners(part.text, snapshot, plan, bits);
        for (std::size_t w = 0; w < bits.size(); ++w) found->bits[w] &= bits[w];
    }
    for (const std::uint32_t row : absentRows(*snapshot.table, snapshot.edits.get()))
        found->bits[row >> 6] &= ~(std::uint64_t{1} << (row & 63));
    for (const std::uint64_t word : found->bits) found->count += static_cast<std::size_t>(std::popcount(word));
    return std::shared_ptr<const RecordSet>(std::move(found));
}

}  // namespace jollyrow
