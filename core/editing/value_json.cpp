// SPDX-License-Identifier: MIT
// Covered by tests/session/draft_file_test.cpp.
#include "core/editing/value_json.h"

#include <fmt/format.h>

#include <charconv>
#include <cmath>

#include "core/base/base64.h"
#include "core/rules/utf8.h"

namespace jollyrow {
namespace {

using Json = nlohmann::json;

Json text(const char* letter, const std::string& text) {
    if (!firstBrokenUtf8(text)) return {letter, text};
    return {letter, toBase64(text), "base64"};
}

struct Writer {
    Json operator()(Empty) const { return {"-"}; }
    Json operator()(bool v) const { return {"b", v}; }
    Json operator()(std::int64_t v) const { return {"i", v}; }
    Json operator()(const Decimal& v) const { return {"d", v.mantissa, v.scale}; }
    // In hexadecimal, which loses nothing and knows NaN and infinity.
    Json operator()(double v) const { return {"r", fmt::format("{:a}", v)}; }
    Json operator()(const std::string& v) const { return text("t", v); }
    Json operator()(Date v) const { return {"D", v.days}; }
    Json operator()(Time v) const { return {"T", v.micros}; }
    Json operator()(Timestamp v) const { return {"S", v.micros}; }
    Json operator()(Instant v) const { return {"I", v.micros}; }
    Json operator()(const Bytes& v) const { return {"x", toBase64(v.data)}; }
    Json operator()(const WideDecimal& v) const {
        const auto high = static_cast<std::int64_t>(v.mantissa >> 64);
        return {"w", high, static_cast<std::uint64_t>(v.mantissa), v.scale};
    }
    Json operator()(const Unfit& v) const {
        Json out = text("u", v.text);
        return {"u", out[1], out.size() == 3 ? "base64" : "", static_cast<int>(v.stored)};
    }
    Json operator()(const Unread& v) const { return {"n", v.bytes, v.digest}; }
};

std::optional<std::string> textFrom(const Json& json) {
    if (json.size() < 2 || !json[1].is_string()) return std::nullopt;
    const auto& written = json[1].get_ref<const std::string&>();
    const bool isEncoded = json.size() > 2 && json[2].is_string() && json[2].get_ref<const std::string&>() == "base64";
    return isEncoded ? fromBase64(written) : std::optional(written);
}

std::optional<std::int64_t> wholeFrom(const Json& json, std::size_t at) {
    if (json.size() <= at || !json[at].is_number_integer()) return std::nullopt;
    return json[at].get<std::int64_t>();
}

std::optional<Value> numberFrom(const Json& json, char letter) {
    const auto whole = wholeFrom(json, 1);
    if (!whole) return std::nullopt;
    constexpr int kMostScale = 38;
    const auto scale = wholeFrom(json, letter == 'w' ? 3 : 2);
    const bool isScale = scale && *scale >= 0 && *scale <= kMostScale;
    switch (letter) {
        case 'i': return Value(*whole);
        case 'D':
            if (*whole != static_cast<std::int32_t>(*whole)) return std::nullopt;
            return Value(Date{static_cast<std::int32_t>(*whole)});
        case 'T': return Value(Time{*whole});
        case 'S': return Value(Timestamp{*whole});
        case 'I': return Value(Instant{*whole});
        case 'd':
            if (!isScale || *scale > Decimal::kMaxScale) return std::nullopt;
            return Value(Decimal{*whole, static_cast<int>(*scale)});
        case 'w':
            if (!isScale || !json[2].is_number()) return std::nullopt;
            return Value(WideDecimal{static_cast<Int128>(*whole) << 64 | json[2].get<std::uint64_t>(),
                                     static_cast<int>(*scale)});
        default:
            if (json.size() < 3 || !json[2].is_number()) return std::nullopt;
            return Value(Unread{json[1].get<std::uint64_t>(), json[2].get<std::uint64_t>()});
    }
}

std::optional<Value> realFrom(const std::string& written) {
    char* end = nullptr;
    const double number = std::strtod(written.c_str(), &end);  // hexadecimal: no locale's business but the point's
    if (end == written.c_str() + written.size() && !written.empty()) return Value(number);
    // Where the locale has another point.
    const bool negative = written.starts_with('-');
    const std::size_t skip = negative ? 3 : 2;
    double parsed = 0;
    if (written.size() <= skip) return std::nullopt;
    const auto result =
        std::from_chars(written.data() + skip, written.data() + written.size(), parsed, std::chars_format::hex);
    if (result.ec != std::errc() || result.ptr != written.data() + written.size()) return std::nullopt;
    return Value(negative ? -parsed : parsed);
}

}  // namespace

Json jsonOf(const Value& value) { return std::visit(Writer{}, static_cast<const Value::variant&>(value)); }

std::optional<Value> valueFrom(const Json& json) {
    if (!json.is_array() || json.empty() || !json[0].is_string()) return std::nullopt;
    const auto& name = json[0].get_ref<const std::string&>();
    const char letter = name.size() == 1 ? name[0] : '\0';
    switch (letter) {
        case '-': return Value(Empty{});
        case 'b':
            return json.size() > 1 && json[1].is_boolean() ? std::optional<Value>(json[1].get<bool>()) : std::nullopt;
        case 'r':
            return json.size() > 1 && json[1].is_string() ? realFrom(json[1].get_ref<const std::string&>())
                                                          : std::nullopt;
        case 't':
            if (auto text = textFrom(json)) return Value(std::move(*text));
            return std::nullopt;
        case 'x':
            if (json.size() < 2 || !json[1].is_string()) return std::nullopt;
            if (auto bytes = fromBase64(json[1].get_ref<const std::string&>())) return Value(Bytes{std::move(*bytes)});
            return std::nullopt;
        case 'u': {
            auto text = textFrom(json);
            const auto stored = wholeFrom(json, 3);
            if (!text || !stored || *stored < 0 || *stored > static_cast<int>(Stored::Blob)) return std::nullopt;
            return Value(Unfit{std::move(*text), static_cast<Stored>(*stored)});
        }
        case 'i':
        case 'd':
        case 'D':
        case 'T':
        case 'S':
        case 'I':
        case 'w':
        case 'n': return numberFrom(json, letter);
        default: return std::nullopt;
    }
}

}  // namespace jollyrow
