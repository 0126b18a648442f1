// SPDX-License-Identifier: MIT
#include "core/rows/extents.h"

#include <algorithm>
#include <cmath>
#include <limits>

#include "core/columns/number_list.h"

namespace jollyrow {
namespace {

constexpr double kNone = std::numeric_limits<double>::quiet_NaN();
constexpr std::size_t kPollExtentsEvery = 1 << 16;

/// Reads the numbers of one column as doubles.
class Numbers {
  public:
    Numbers(const Table& table, const Edits* edits, FieldIndex field)
        : column_(table.column(field)), edits_(edits && edits->touches(field) ? edits : nullptr), field_(field) {
        if (column_ && column_->type() == Type::Decimal) unit_ = std::pow(10.0, column_->scale());
    }
    bool isList() const { return column_ && column_->type() == Type::NumberList; }
    std::string listAt(SourceRow row) const {
        if (const CellEdit* edit = edits_ ? edits_->find(row, field_) : nullptr) {
            const auto* text = std::get_if<std::string>(&edit->value);
            return text ? *text : std::string();
        }
        return column_->isEmpty(row) || column_->misfit(row) ? std::string() : std::string(column_->text(row));
    }
    double at(SourceRow row) const {
        if (const CellEdit* edit = edits_ ? edits_->find(row, field_) : nullptr) return numberOf(edit->value);
        if (!column_ || column_->isEmpty(row)) return kNone;
        if (column_->type() == Type::Real) return column_->real(row);
        if (!isNumber(column_->type())) return kNone;
        if (column_->isWide()) return toReal(column_->decimal(row));
        return static_cast<double>(column_->integer(row)) / unit_;
    }

  private:
    const Column* column_;
    const Edits* edits_;
    FieldIndex field_;
    double unit_ = 1;
};

/// Calls visit(row) for the records of an order, or all that are there; polls `cancel`.
template <class Visit>
void forEachRecord(const Table& table, const Edits* edits, const RowOrder* order, const Cancel& cancel,
                   const Visit& visit) {
    const std::vector<SourceRow> gone = edits && !order ? edits->gone() : std::vector<SourceRow>();
    auto next = gone.begin();
    const std::size_t count = order ? order->size() : table.rows;
    for (std::size_t i = 0; i < count; ++i) {
        if (i % kPollExtentsEvery == 0 && cancel.requested()) return;
        const auto row = static_cast<SourceRow>(order ? (*order)[i] : static_cast<std::uint32_t>(i));
        if (next != gone.end() && *next == row)
            ++next;
        else
            visit(row);
    }
}

}  // namespace

double numberOf(const Value& value) {
    if (const auto* whole = std::get_if<std::int64_t>(&value)) return static_cast<double>(*whole);
    if (const auto* real = std::get_if<double>(&value)) return *real;
    if (const auto exact = exactOf(value)) return toReal(*exact);
    return kNone;
}

double numberIn(const Table& table, const Edits* edits, SourceRow row, FieldIndex field) {
    return Numbers(table, edits, field).at(row);
}

Extent extentOf(const Table& table, const Edits* edits, const RowOrder* order, std::span<const FieldIndex> fields,
                const Cancel& cancel) {
    std::vector<Numbers> columns;
    columns.reserve(fields.size());
    for (const FieldIndex field : fields) columns.emplace_back(table, edits, field);
    Extent extent;
    forEachRecord(table, edits, order, cancel, [&](SourceRow row) {
        double below = 0, above = 0;
        for (const Numbers& column : columns) {
            if (column.isList()) {
                for (const double number : numbersIn(column.listAt(row)).value_or(std::vector<double>()))
                    if (std::isfinite(number)) (number < 0 ? below : above) += number;
                continue;
            }
            const double number = column.at(row);
            if (!std::isfinite(number)) continue;
            (number < 0 ? below : above) += number;
        }
        extent.low = std::min(extent.low, below);
        extent.high = std::max(extent.high, above);
    });
    return extent;
}

Extent spreadOf(const Table& table, const Edits* edits, const RowOrder* order, FieldIndex field, const Cancel& cancel) {
    const Numbers column(table, edits, field);
    Extent extent;
    bool any = false;
    forEachRecord(table, edits, order, cancel, [&](SourceRow row) {
        const double number = column.at(row);
        if (!std::isfinite(number)) return;
        extent.low = any ? std::min(extent.low, number) : number;
        extent.high = any ? std::max(extent.high, number) : number;
        any = true;
    });
    return extent;
}

Extent ExtentStage::of(const ExtentTerm& term, const std::shared_ptr<const Table>& table,
                       const std::shared_ptr<const Edits>& edits, const std::shared_ptr<const RowOrder>& order,
                       const Cancel& cancel) {
    Kept now{term, {}, table->rows, nullptr, {}, term.filtered ? order : nullptr, {}};
    if (edits && !now.order) now.gone = edits->gone();
    for (const FieldIndex field : term.fields) {
        const Column* column = table->column(field);
        now.columns.push_back(column ? column->id() : 0);
        if (edits && edits->touches(field)) now.edits = edits;
    }
    const auto same = std::find_if(kept_.begin(), kept_.end(), [&](const Kept& k) {
        return k.term == now.term && k.columns == now.columns && k.rows == now.rows && k.edits == now.edits &&
               k.gone == now.gone && k.order == now.order;
    });
    if (same != kept_.end()) {
        kept_.splice(kept_.begin(), kept_, same);
        return kept_.front().extent;
    }
    now.extent = term.isSpread ? spreadOf(*table, edits.get(), now.order.get(), term.fields.front(), cancel)
                               : extentOf(*table, edits.get(), now.order.get(), term.fields, cancel);
    if (cancel.requested()) return now.extent;
    // One of each: orders of earlier filters are not held on to.
    std::erase_if(kept_, [&](const Kept& k) { return k.term == now.term; });
    kept_.push_front(std::move(now));
    if (kept_.size() > kKept) kept_.pop_back();
    return kept_.front().extent;
}

}  // namespace jollyrow
