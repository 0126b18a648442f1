// SPDX-License-Identifier: MIT
// A pattern is cut at its % into pieces. The first must stand at the start and the last at the end unless % is there;
// those between are found one after the other, leftmost first, which needs no backtracking: taking the earliest place
// leaves the most room for the rest. Covered by tests/rules/postgres_oracle_test.cpp.
#include "core/rules/like_pattern.h"

#include <cstring>

#include "core/rules/utf8.h"

namespace jollyrow {
namespace {
constexpr std::size_t kNowhere = std::string_view::npos;
}

std::optional<LikePattern> LikePattern::make(std::string_view pattern, std::string_view escape) {
    if (!escape.empty() && codePointBytes(escape, 0) != escape.size()) return std::nullopt;
    LikePattern made;
    Piece piece;
    bool started = false;
    const auto close = [&] {
        if (!piece.text.empty()) made.pieces_.push_back(std::move(piece));
        piece = {};
    };
    for (std::size_t at = 0; at < pattern.size();) {
        std::size_t bytes = codePointBytes(pattern, at);
        std::string_view c = pattern.substr(at, bytes);
        bool literal = false;
        if (!escape.empty() && c == escape) {
            at += bytes;
            if (at == pattern.size()) return std::nullopt;
            bytes = codePointBytes(pattern, at);
            c = pattern.substr(at, bytes);
            literal = true;
        }
        at += bytes;
        if (!literal && c == "%") {
            if (!started) made.openStart_ = true;
            close();
            made.openEnd_ = true;
        } else {
            made.openEnd_ = false;
            const bool any = !literal && c == "_";
            piece.text += c;
            piece.any.resize(piece.text.size(), any);
            piece.hasAny = piece.hasAny || any;
        }
        started = true;
    }
    close();
    const bool simple = made.pieces_.size() <= 1 && (made.pieces_.empty() || !made.pieces_[0].hasAny);
    if (simple) {
        if (made.pieces_.empty()) made.pieces_.emplace_back();
        made.form_ = made.openStart_ && made.openEnd_ ? Form::Contains
                     : made.openStart_                ? Form::EndsWith
                     : made.openEnd_                  ? Form::StartsWith
                                                      : Form::Equals;
        if (made.openStart_ && made.pieces_[0].text.empty()) made.form_ = Form::Contains;
    }
    return made;
}

/// Where the piece ends when it stands at `at`.
std::size_t LikePattern::matchHere(const Piece& piece, std::string_view text, std::size_t at) const {
    if (!piece.hasAny) return text.substr(at).starts_with(piece.text) ? at + piece.text.size() : kNowhere;
    for (std::size_t i = 0; i < piece.text.size();) {
        if (at >= text.size()) return kNowhere;
        if (piece.any[i]) {
            at += codePointBytes(text, at);
        } else {
            if (text[at] != piece.text[i]) return kNowhere;
            ++at;
        }
        ++i;
    }
    return at;
}

/// The end of the piece at its first place from `from` on.
std::size_t LikePattern::find(const Piece& piece, std::string_view text, std::size_t from) const {
    if (!piece.hasAny) {
        const std::size_t at = text.find(piece.text, from);
        return at == kNowhere ? kNowhere : at + piece.text.size();
    }
    for (std::size_t at = from; at < text.size(); at += codePointBytes(text, at))
        if (const std::size_t end = matchHere(piece, text, at); end != kNowhere) return end;
    return kNowhere;
}

bool LikePattern::matches(std::string_view text) const {
    switch (form_) {
        case Form::Equals: return text == pieces_[0].text;
        case Form::StartsWith: return text.starts_with(pieces_[0].text);
        case Form::EndsWith: return text.ends_with(pieces_[0].text);
        case Form::Contains: {
            const std::string& part = pieces_[0].text;
            return part.empty() || (text.size() >= part.size() &&
                                    memmem(text.data(), text.size(), part.data(), part.size()) != nullptr);
        }
        case Form::General: break;
    }
    std::size_t at = 0, first = 0, last = pieces_.size();
    if (!openStart_) {
        at = matchHere(pieces_[0], text, 0);
        if (at == kNowhere) return false;
        first = 1;
        if (last == 1 && !openEnd_) return at == text.size();
    }
    if (!openEnd_) --last;
    for (std::size_t i = first; i < last; ++i) {
        at = find(pieces_[i], text, at);
        if (at == kNowhere) return false;
    }
    if (openEnd_) return true;
    // The last piece stands at the end: try the places from which it can reach it.
    const Piece& tail = pieces_[last];
    if (!tail.hasAny) return text.size() >= at + tail.text.size() && text.ends_with(tail.text);
    std::size_t start = text.size();
    for (std::size_t left = codePointCount(tail.text); left > 0; --left) {
        if (start <= at) return false;
        do {
            --start;
        } while (start > at && (static_cast<unsigned char>(text[start]) & 0xC0) == 0x80);
    }
    return start >= at && matchHere(tail, text, start) == text.size();
}

}  // namespace jollyrow
