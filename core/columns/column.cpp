// SPDX-License-Identifier: MIT
#include "core/columns/column.h"
#include "core/base/require.h"

#include <algorithm>
#include <charconv>

namespace jollyrow {

std::int64_t Column::integer(SourceRow row) const {
    JOLLYROW_REQUIRE(isIntegral(type()) && raw(row) < size() && !isWide());
    switch (storage_.index()) {
        case 0: return std::get<0>(storage_)[raw(row)];
        case 1: return std::get<1>(storage_)[raw(row)];
        default: return std::get<2>(storage_)[raw(row)];
    }
}

std::string_view Column::text(SourceRow row) const {
    JOLLYROW_REQUIRE(isBytes(type()) && raw(row) < size());
    if (const auto* dictionary = std::get_if<TextDictionary>(&storage_))
        return dictionary->distinct.at(dictionary->codes[raw(row)]);
    return std::get<TextArena>(storage_).at(raw(row));
}

WideDecimal Column::decimal(SourceRow row) const {
    JOLLYROW_REQUIRE(isIntegral(type()) && raw(row) < size());
    if (const auto* wide = std::get_if<SharedSpan<Int128>>(&storage_)) return {(*wide)[raw(row)], scale_};
    return {integer(row), scale_};
}

Value Column::value(SourceRow row) const {
    if (isEmpty(row)) {
        const auto odd = misfits(raw(row), 1);
        return odd.empty() ? Value(Empty{}) : Value(Unfit{odd[0].text, odd[0].stored});
    }
    switch (type_) {
        case Type::Boolean: return integer(row) != 0;
        case Type::Integer: return integer(row);
        case Type::Decimal: return narrowest(unpadded_ ? unpadded(decimal(row)) : decimal(row));
        case Type::Real: return real(row);
        case Type::Text:
        case Type::Interval:
        case Type::NumberList: return std::string(text(row));
        case Type::Date: return Date{static_cast<std::int32_t>(integer(row))};
        case Type::Time: return Time{integer(row)};
        case Type::Timestamp: return Timestamp{integer(row)};
        case Type::Instant: return Instant{integer(row)};
        case Type::Binary:
            if (unread_) return Unread{unreadBytes(row)};
            return Bytes{std::string(text(row))};
    }
    return Empty{};
}

std::uint64_t Column::unreadBytes(SourceRow row) const {
    const std::string_view digits = text(row);
    std::uint64_t bytes = 0;
    std::from_chars(digits.data(), digits.data() + digits.size(), bytes);
    return bytes;
}

std::span<const Misfit> Column::misfits(std::size_t begin, std::size_t count) const {
    if (!misfits_) return {};
    const auto before = [](const Misfit& m, std::size_t wanted) { return m.row < wanted; };
    const auto from = std::lower_bound(misfits_->begin(), misfits_->end(), begin, before);
    const auto to = std::lower_bound(from, misfits_->end(), begin + count, before);
    return {from, to};
}

std::optional<std::string_view> Column::misfit(SourceRow row) const {
    const auto found = misfits(raw(row), 1);
    if (found.empty()) return std::nullopt;
    return found[0].text;
}

std::size_t Column::byteSize() const {
    struct Held {
        static std::size_t of(const TextArena& a) { return a.bytes.size() + a.offsets.size() * 8; }
        static std::size_t of(const TextDictionary& d) { return d.codes.size() * 4 + of(d.distinct); }
        static std::size_t of(const SharedSpan<std::int8_t>& s) { return s.size(); }
        static std::size_t of(const SharedSpan<std::int32_t>& s) { return s.size() * 4; }
        static std::size_t of(const SharedSpan<std::int64_t>& s) { return s.size() * 8; }
        static std::size_t of(const SharedSpan<double>& s) { return s.size() * 8; }
        static std::size_t of(const SharedSpan<Int128>& s) { return s.size() * 16; }
    };
    return std::visit([](const auto& s) { return Held::of(s); }, storage_) + validity_.size() * 8;
}

}  // namespace jollyrow
