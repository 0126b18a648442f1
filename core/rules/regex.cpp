// SPDX-License-Identifier: MIT
// A pattern is written over for ICU first, character by character: what the two read differently is spelt in the way
// that ICU reads as PostgreSQL does. Example: `a$` -> `a\z`, `[]a&]` -> `[\]a\&]`. Covered by
// tests/rules/written_oracle_test.cpp.
#include "core/rules/regex.h"

#include <unicode/uregex.h>
#include <unicode/utext.h>
#include <unicode/utf16.h>
#include <unicode/utf8.h>

#include <algorithm>

#include "core/rules/utf8.h"

namespace jollyrow {
namespace {

constexpr std::int32_t kTimeLimit = 20;          // ICU's steps, of about half a millisecond each
constexpr std::size_t kBytesAStep = 2000;        // and one more for so much text
constexpr std::int32_t kStackLimit = 2'000'000;  // bytes
constexpr std::size_t kMostPattern = 100'000;

struct Flags {
    unsigned icu = UREGEX_DOTALL;
    bool atLines = false;  ///< ^ and $ stand at lines, too
    bool isPlain = false;
    bool isGlobal = false;
};

std::optional<Flags> flagsOf(std::string_view text) {
    Flags flags;
    for (const char c : text) {
        switch (c) {
            case 'g': flags.isGlobal = true; break;
            case 'i': flags.icu |= UREGEX_CASE_INSENSITIVE; break;
            case 'c': flags.icu &= ~unsigned{UREGEX_CASE_INSENSITIVE}; break;
            case 'n':
            case 'm':
                flags.icu &= ~unsigned{UREGEX_DOTALL};
                flags.atLines = true;
                break;
            case 'p':
                flags.icu &= ~unsigned{UREGEX_DOTALL};
                flags.atLines = false;
                break;
            case 'w':
                flags.icu |= UREGEX_DOTALL;
                flags.atLines = true;
                break;
            case 's':
                flags.icu |= UREGEX_DOTALL;
                flags.atLines = false;
                break;
            case 'x': flags.icu |= UREGEX_COMMENTS; break;
            case 't': flags.icu &= ~unsigned{UREGEX_COMMENTS}; break;
            case 'q': flags.isPlain = true; break;
            default: return std::nullopt;
        }
    }
    // Line ends are \n alone, and $ stands before one only where it is asked to.
    flags.icu |= UREGEX_UNIX_LINES | (flags.atLines ? unsigned{UREGEX_MULTILINE} : 0U);
    return flags;
}

bool isSpecial(char c) { return std::string_view("\\^$.|?*+()[]{}").find(c) != std::string_view::npos; }

std::string plain(std::string_view text) {
    std::string out;
    for (const char c : text) {
        if (isSpecial(c) || c == '#' || c == ' ') out += '\\';
        out += c;
    }
    return out;
}

class Translator {
  public:
    Translator(std::string_view pattern, bool atLines) : text_(pattern), atLines_(atLines) {}

    /// nullopt where a bracket or an escape is not complete.
    std::optional<std::string> run() {
        while (at_ < text_.size()) {
            const char c = text_[at_];
            if (c == '\\') {
                if (!escape()) return std::nullopt;
            } else if (text_.substr(at_).starts_with("[[:<:]]") || text_.substr(at_).starts_with("[[:>:]]")) {
                out_ += text_[at_ + 3] == '<' ? kWordBegin : kWordEnd;
                at_ += 7;
            } else if (c == '[') {
                if (!set()) return std::nullopt;
            } else if (c == '$' && !atLines_) {
                out_ += "\\z";
                ++at_;
            } else {
                out_ += c;
                ++at_;
            }
        }
        return std::move(out_);
    }

  private:
    static constexpr std::string_view kWordBegin = "\\b(?=\\w)", kWordEnd = "\\b(?<=\\w)";

    bool escape() {
        if (at_ + 1 >= text_.size()) return false;
        const char c = text_[at_ + 1];
        switch (c) {
            case 'm': out_ += kWordBegin; break;
            case 'M': out_ += kWordEnd; break;
            case 'y': out_ += "\\b"; break;
            case 'Y': out_ += "\\B"; break;
            case 'B': out_ += "\\\\"; break;
            case 'Z': out_ += "\\z"; break;
            case 'v': out_ += "\\x{0B}"; break;
            default: out_.append(text_.substr(at_, 2)); break;
        }
        at_ += 2;
        return true;
    }

    /// [ … ]: a bracket or an & inside stands for itself, and so does a ] that comes first.
    bool set() {
        out_ += '[';
        ++at_;
        if (at_ < text_.size() && text_[at_] == '^') out_ += text_[at_++];
        for (bool isFirst = true;; isFirst = false) {
            if (at_ >= text_.size()) return false;
            const char c = text_[at_];
            if (c == ']' && !isFirst) {
                ++at_;
                out_ += ']';
                return true;
            }
            if (c == '[' && at_ + 1 < text_.size() && text_[at_ + 1] == ':') {
                const std::size_t end = text_.find(":]", at_ + 2);
                if (end == std::string_view::npos) return false;
                out_.append(text_.substr(at_, end + 2 - at_));
                at_ = end + 2;
                continue;
            }
            if (c == '\\') {
                if (at_ + 1 >= text_.size()) return false;
                out_.append(text_.substr(at_, 2));
                at_ += 2;
                continue;
            }
            const bool isOwn = c == '[' || c == ']' || c == '&' || c == '{' || c == '}' || c == '$' ||
                               (c == '-' && (isFirst || text_.substr(at_ + 1, 1) == "]" || out_.back() == '-'));
            if (isOwn) out_ += '\\';
            out_ += c;
            ++at_;
        }
    }

    std::string_view text_;
    bool atLines_;
    std::size_t at_ = 0;
    std::string out_;
};

/// SIMILAR TO as a regular expression.
std::optional<std::string> fromSimilar(std::string_view pattern, std::string_view escape) {
    if (codePointCount(escape) > 1) return std::nullopt;
    std::string out = "\\A(?:";
    bool isInSet = false;
    for (std::size_t at = 0; at < pattern.size();) {
        if (!escape.empty() && pattern.substr(at).starts_with(escape)) {
            at += escape.size();
            if (at >= pattern.size()) return std::nullopt;
            const std::size_t bytes = codePointBytes(pattern, at);
            out += bytes == 1 ? plain(pattern.substr(at, 1)) : std::string(pattern.substr(at, bytes));
            at += bytes;
            continue;
        }
        const char c = pattern[at++];
        if (isInSet) {
            if (c == '\\' || c == '[' || c == '&') out += '\\';
            if (c == '[' && at < pattern.size() && pattern[at] == ':') {
                out.pop_back();
                const std::size_t end = pattern.find(":]", at);
                if (end == std::string_view::npos) return std::nullopt;
                out.append(pattern.substr(at - 1, end + 3 - at));
                at = end + 2;
                continue;
            }
            out += c;
            isInSet = c != ']';
        } else if (c == '%') {
            out += ".*";
        } else if (c == '_') {
            out += '.';
        } else if (c == '[') {
            out += c;
            isInSet = true;
            if (at < pattern.size() && pattern[at] == '^') out += pattern[at++];
            if (at < pattern.size() && pattern[at] == ']') out.append("\\").append(1, pattern[at++]);
        } else if (c == '(') {
            out += "(?:";  // groups are not looked at
        } else {
            if (c == '.' || c == '^' || c == '$' || c == '\\') out += '\\';
            out += c;
        }
    }
    if (isInSet) return std::nullopt;
    return out + ")\\z";
}

}  // namespace

struct Regex::Handles {
    URegularExpression* regex = nullptr;
    // ICU looks behind by UTF-16 units, and loses its place in a UText of UTF-8: it is given a text of its own kind.
    std::u16string units;
    std::vector<std::uint32_t> byteAt;  ///< by unit, and behind the last; empty where each unit is a byte
    std::size_t unitOf(std::size_t byte) const {
        if (byteAt.empty()) return byte;
        return static_cast<std::size_t>(std::lower_bound(byteAt.begin(), byteAt.end(), byte) - byteAt.begin());
    }
    std::size_t byteOf(std::int64_t unit) const {
        return byteAt.empty() ? static_cast<std::size_t>(unit) : byteAt[static_cast<std::size_t>(unit)];
    }
    Handles() = default;
    Handles(const Handles&) = delete;
    Handles& operator=(const Handles&) = delete;
    ~Handles() { uregex_close(regex); }
};

Regex::Regex() : handles_(std::make_unique<Handles>()) {}
Regex::~Regex() = default;
Regex::Regex(Regex&&) noexcept = default;
Regex& Regex::operator=(Regex&&) noexcept = default;

std::optional<Regex> Regex::compiled(const std::string& pattern, unsigned flags) {
    if (pattern.size() > kMostPattern) return std::nullopt;
    Regex made;
    UErrorCode status = U_ZERO_ERROR;
    UText text = UTEXT_INITIALIZER;
    utext_openUTF8(&text, pattern.data(), static_cast<std::int64_t>(pattern.size()), &status);
    made.handles_->regex = uregex_openUText(&text, flags, nullptr, &status);
    utext_close(&text);
    if (U_FAILURE(status)) return std::nullopt;
    uregex_setStackLimit(made.handles_->regex, kStackLimit, &status);
    return made;
}

std::optional<Regex> Regex::make(std::string_view pattern, std::string_view flags) {
    const auto read = flagsOf(flags);
    if (!read || pattern.size() > kMostPattern) return std::nullopt;
    const auto written = read->isPlain ? std::optional(plain(pattern)) : Translator(pattern, read->atLines).run();
    if (!written) return std::nullopt;
    auto made = compiled(*written, read->icu);
    if (made) made->isGlobal_ = read->isGlobal;
    return made;
}

std::optional<Regex> Regex::similar(std::string_view pattern, std::string_view escape) {
    const auto written = fromSimilar(pattern, escape);
    return written ? compiled(*written, UREGEX_DOTALL) : std::nullopt;
}

void Regex::setText(std::string_view text) {
    UErrorCode status = U_ZERO_ERROR;
    Handles& h = *handles_;
    uregex_setTimeLimit(h.regex, kTimeLimit + static_cast<std::int32_t>(text.size() / kBytesAStep), &status);
    h.byteAt.clear();
    if (std::all_of(text.begin(), text.end(), [](char c) { return (c & 0x80) == 0; })) {
        h.units.assign(text.begin(), text.end());
        uregex_setText(h.regex, h.units.data(), static_cast<std::int32_t>(h.units.size()), &status);
        return;
    }
    h.units.clear();
    for (std::int32_t at = 0, size = static_cast<std::int32_t>(text.size()); at < size;) {
        const auto from = static_cast<std::uint32_t>(at);
        UChar32 c = 0;
        U8_NEXT_OR_FFFD(text.data(), at, size, c);
        h.byteAt.push_back(from);
        if (U_IS_BMP(c)) {
            h.units += static_cast<char16_t>(c);
        } else {
            h.units += U16_LEAD(c);
            h.units += U16_TRAIL(c);
            h.byteAt.push_back(from);
        }
    }
    h.byteAt.push_back(static_cast<std::uint32_t>(text.size()));
    uregex_setText(h.regex, h.units.data(), static_cast<std::int32_t>(h.units.size()), &status);
}

Regex::Outcome Regex::find(std::size_t from) {
    UErrorCode status = U_ZERO_ERROR;
    const auto unit = static_cast<std::int64_t>(handles_->unitOf(from));
    const bool isFound = uregex_find64(handles_->regex, unit, &status) != 0;
    if (U_FAILURE(status)) return Outcome::TooSlow;
    return isFound ? Outcome::Found : Outcome::NotFound;
}

RegexSpan Regex::group(int number) const {
    UErrorCode status = U_ZERO_ERROR;
    const std::int64_t begin = uregex_start64(handles_->regex, number, &status);
    const std::int64_t end = uregex_end64(handles_->regex, number, &status);
    if (U_FAILURE(status) || begin < 0) return {};
    return {handles_->byteOf(begin), handles_->byteOf(end), true};
}

int Regex::groups() const {
    UErrorCode status = U_ZERO_ERROR;
    return uregex_groupCount(handles_->regex, &status);
}

Regex* RegexCache::get(std::string_view pattern, std::string_view flags, bool isSimilar) {
    std::string key(pattern);
    key.append(1, '\0').append(flags);
    if (!isMade_ || key != key_) {
        regex_ = isSimilar ? Regex::similar(pattern, flags) : Regex::make(pattern, flags);
        key_ = std::move(key);
        isMade_ = true;
    }
    return regex_ ? &*regex_ : nullptr;
}

}  // namespace jollyrow
