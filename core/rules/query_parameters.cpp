// SPDX-License-Identifier: MIT
// Words, not a grammar: each database has its own SELECT, but conditions are joined by the same words in all of them.
// Covered by tests/rules/query_parameters_test.cpp, where SQLite runs what is written.
#include "core/rules/query_parameters.h"

#include <algorithm>
#include <optional>

namespace jollyrow {
namespace {

enum class Kind { Word, Quoted, Parameter, Open, Close, Sign };

struct Piece {
    Kind kind = Kind::Sign;
    std::size_t offset = 0, length = 0;
    std::string word;         ///< in capitals, of a Word; as written, of a Parameter
    std::size_t partner = 0;  ///< of Open and Close
    bool ofBetween = false;   ///< the AND of BETWEEN x AND y
};

bool isWordStart(char c) {
    return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || c == '_' || static_cast<unsigned char>(c) >= 0x80;
}
bool isWordPart(char c) { return isWordStart(c) || (c >= '0' && c <= '9') || c == '$'; }

/// The end of a quoted piece that starts at `at`; npos when it has none. A doubled quote stands for itself.
std::size_t endOfQuoted(std::string_view text, std::size_t at) {
    const char close = text[at] == '[' ? ']' : text[at];
    for (std::size_t i = at + 1; i < text.size(); ++i) {
        if (text[i] != close) continue;
        if (close != ']' && i + 1 < text.size() && text[i + 1] == close)
            ++i;
        else
            return i + 1;
    }
    return std::string_view::npos;
}

/// Each AND that belongs to a BETWEEN of the same bracket.
void markBetween(std::vector<Piece>& pieces) {
    std::vector<int> pending{0};
    for (Piece& piece : pieces) {
        if (piece.kind == Kind::Open)
            pending.push_back(0);
        else if (piece.kind == Kind::Close)
            pending.pop_back();
        else if (piece.kind == Kind::Word && piece.word == "BETWEEN")
            ++pending.back();
        else if (piece.kind == Kind::Word && piece.word == "AND" && pending.back() > 0) {
            --pending.back();
            piece.ofBetween = true;
        }
    }
}

/// nullopt when a quote or bracket has no end.
std::optional<std::vector<Piece>> piecesOf(std::string_view text) {
    std::vector<Piece> pieces;
    std::vector<std::size_t> open;
    for (std::size_t at = 0; at < text.size();) {
        const char c = text[at];
        std::size_t end = at + 1;
        Piece piece{Kind::Sign, at, 1, {}, 0, false};
        if (c == ' ' || c == '\t' || c == '\n' || c == '\r' || c == '\f') {
            ++at;
            continue;
        }
        if (text.substr(at).starts_with("--")) {
            at = std::min(text.find('\n', at), text.size());
            continue;
        }
        if (text.substr(at).starts_with("/*")) {
            const std::size_t close = text.find("*/", at + 2);
            if (close == std::string_view::npos) return std::nullopt;
            at = close + 2;
            continue;
        }
        if (c == '\'' || c == '"' || c == '`' || c == '[') {
            end = endOfQuoted(text, at);
            if (end == std::string_view::npos) return std::nullopt;
            piece.kind = Kind::Quoted;
        } else if (text.substr(at).starts_with("::")) {
            end = at + 2;  // a cast of PostgreSQL
        } else if (c == ':' && at + 1 < text.size() && isWordStart(text[at + 1])) {
            while (end < text.size() && isWordPart(text[end])) ++end;
            piece.kind = Kind::Parameter;
            piece.word = text.substr(at + 1, end - at - 1);
        } else if (isWordPart(c)) {
            while (end < text.size() && (isWordPart(text[end]) || text[end] == '.')) ++end;
            piece.kind = Kind::Word;
            piece.word = text.substr(at, end - at);
            for (char& letter : piece.word)
                if (letter >= 'a' && letter <= 'z') letter = static_cast<char>(letter - 32);
        } else if (c == '(') {
            piece.kind = Kind::Open;
            open.push_back(pieces.size());
        } else if (c == ')') {
            if (open.empty()) return std::nullopt;
            piece.kind = Kind::Close;
            piece.partner = open.back();
            pieces[open.back()].partner = pieces.size();
            open.pop_back();
        }
        if (c == ';') piece.word.assign(1, c);
        piece.length = end - at;
        pieces.push_back(std::move(piece));
        at = end;
    }
    if (!open.empty()) return std::nullopt;
    markBetween(pieces);
    return pieces;
}

bool isOneOf(const Piece& piece, std::initializer_list<std::string_view> words) {
    return piece.kind == Kind::Word && std::find(words.begin(), words.end(), piece.word) != words.end();
}
/// A condition stands behind it.
bool opensCondition(const Piece& piece) {
    return !piece.ofBetween && isOneOf(piece, {"WHERE", "HAVING", "ON", "AND", "OR"});
}
/// No condition goes past it, either way.
bool endsCondition(const Piece& piece) {
    return opensCondition(piece) ||
           isOneOf(piece, {"SELECT",    "FROM", "GROUP", "ORDER", "LIMIT", "OFFSET",  "WINDOW", "UNION", "EXCEPT",
                           "INTERSECT", "JOIN", "LEFT",  "INNER", "CROSS", "NATURAL", "RIGHT",  "FULL",  "WHEN",
                           "THEN",      "ELSE", "CASE",  "END",   "BY",    "VALUES",  "FETCH",  "FOR"}) ||
           (piece.kind == Kind::Sign && piece.word == ";");
}

struct Span {
    std::size_t first = 0, end = 0;  ///< pieces
};

/// From a piece outwards to what bounds it on its own level of brackets.
struct Level {
    Span span;
    std::optional<std::size_t> opener;   ///< the word before it
    std::optional<std::size_t> bracket;  ///< or the bracket it begins with
};

Level levelAround(const std::vector<Piece>& pieces, Span inner) {
    Level level{inner, std::nullopt, std::nullopt};
    while (level.span.first > 0) {
        const Piece& before = pieces[level.span.first - 1];
        if (before.kind == Kind::Close) {
            level.span.first = before.partner;
            continue;
        }
        if (before.kind == Kind::Open) {
            level.bracket = level.span.first - 1;
            break;
        }
        if (endsCondition(before)) {
            level.opener = level.span.first - 1;
            break;
        }
        --level.span.first;
    }
    while (level.span.end < pieces.size()) {
        const Piece& next = pieces[level.span.end];
        if (next.kind == Kind::Close || endsCondition(next)) break;
        level.span.end = next.kind == Kind::Open ? next.partner + 1 : level.span.end + 1;
    }
    return level;
}

/// Does a bracket's content, as far as the level goes, say yes or no?
bool isCondition(const std::vector<Piece>& pieces, const Level& level, std::string_view text) {
    const std::size_t close = pieces[*level.bracket].partner;
    if (level.span.end < close && opensCondition(pieces[level.span.end])) return true;  // (… AND …)
    for (std::size_t i = level.span.first; i < level.span.end; ++i) {
        const Piece& piece = pieces[i];
        if (piece.kind == Kind::Open) {
            i = piece.partner;
            continue;
        }
        if (isOneOf(piece, {"IN", "LIKE", "BETWEEN", "IS", "EXISTS", "GLOB", "ILIKE", "SIMILAR", "NOT"})) return true;
        if (piece.kind == Kind::Sign && std::string_view("=<>").find(text[piece.offset]) != std::string_view::npos)
            return true;
    }
    return false;
}

/// Is what stands in the bracket turned around by NOTs before it and further out?
bool isTurned(const std::vector<Piece>& pieces, std::size_t inside) {
    bool turned = false;
    std::size_t at = inside;
    while (true) {
        // The bracket around `at`.
        std::optional<std::size_t> around;
        for (std::size_t i = at; i-- > 0;) {
            if (pieces[i].kind == Kind::Close) {
                i = pieces[i].partner;
                continue;
            }
            if (pieces[i].kind == Kind::Open) {
                around = i;
                break;
            }
        }
        if (!around) return turned;
        std::size_t before = *around;
        while (before > 0 && isOneOf(pieces[before - 1], {"EXISTS", "IN"})) --before;
        for (; before > 0 && isOneOf(pieces[before - 1], {"NOT"}); --before) turned = !turned;
        at = *around;
    }
}

/// The condition that uses the parameter at piece `at`.
std::optional<Span> conditionAround(const std::vector<Piece>& pieces, std::size_t at, std::string_view text) {
    Span inner{at, at + 1};
    while (true) {
        const Level level = levelAround(pieces, inner);
        if (level.opener) return opensCondition(pieces[*level.opener]) ? std::optional(level.span) : std::nullopt;
        if (!level.bracket) return std::nullopt;
        const bool isCall = *level.bracket > 0 && pieces[*level.bracket - 1].kind == Kind::Word &&
                            !opensCondition(pieces[*level.bracket - 1]) &&
                            !isOneOf(pieces[*level.bracket - 1], {"NOT"});
        if (!isCall && isCondition(pieces, level, text)) return level.span;
        inner = {*level.bracket, pieces[*level.bracket].partner + 1};
    }
}

}  // namespace

std::vector<std::string> parametersIn(std::string_view query) {
    std::vector<std::string> names;
    const auto pieces = piecesOf(query);
    if (!pieces) return names;
    for (const Piece& piece : *pieces)
        if (piece.kind == Kind::Parameter && std::find(names.begin(), names.end(), piece.word) == names.end())
            names.push_back(piece.word);
    return names;
}

std::string withoutConditionsOn(std::string_view query, const std::set<std::string>& empty) {
    const auto pieces = piecesOf(query);
    if (!pieces || empty.empty()) return std::string(query);
    std::vector<Span> lifted;
    for (std::size_t i = 0; i < pieces->size(); ++i)
        if ((*pieces)[i].kind == Kind::Parameter && empty.contains((*pieces)[i].word))
            if (const auto span = conditionAround(*pieces, i, query)) lifted.push_back(*span);
    std::sort(lifted.begin(), lifted.end(),
              [](const Span& a, const Span& b) { return a.first != b.first ? a.first < b.first : a.end > b.end; });
    std::string out;
    std::size_t copied = 0, done = 0;
    for (const Span& span : lifted) {
        if (span.first < done) continue;  // inside one that is lifted already
        const Piece& first = (*pieces)[span.first];
        const Piece& last = (*pieces)[span.end - 1];
        out += query.substr(copied, first.offset - copied);
        out += isTurned(*pieces, span.first) ? "FALSE" : "TRUE";
        copied = last.offset + last.length;
        done = span.end;
    }
    return out + std::string(query.substr(copied));
}

NumberedQuery withNumbers(std::string_view query) {
    NumberedQuery out;
    const auto pieces = piecesOf(query);
    std::size_t done = 0;
    for (const Piece& piece : pieces ? *pieces : std::vector<Piece>()) {
        if (piece.kind != Kind::Parameter) continue;
        auto known = std::find(out.names.begin(), out.names.end(), piece.word);
        if (known == out.names.end()) known = out.names.insert(known, piece.word);
        out.query += query.substr(done, piece.offset - done);
        out.query += "$" + std::to_string(known - out.names.begin() + 1);
        done = piece.offset + piece.length;
    }
    out.query += query.substr(done);
    return out;
}

std::string withParameterNamed(std::string_view query, std::string_view from, std::string_view to) {
    std::string out;
    const auto pieces = piecesOf(query);
    std::size_t done = 0;
    for (const Piece& piece : pieces ? *pieces : std::vector<Piece>()) {
        if (piece.kind != Kind::Parameter || piece.word != from) continue;
        out.append(query, done, piece.offset + 1 - done).append(to);
        done = piece.offset + piece.length;
    }
    return out.append(query.substr(done));
}

std::string comparedWith(std::string_view query, std::string_view parameter) {
    const auto pieces = piecesOf(query);
    if (!pieces) return {};
    for (std::size_t i = 2; i < pieces->size(); ++i) {
        if ((*pieces)[i].kind != Kind::Parameter || (*pieces)[i].word != parameter) continue;
        std::size_t at = i;
        while (at > 0 && ((*pieces)[at - 1].kind == Kind::Sign || isOneOf((*pieces)[at - 1], {"LIKE", "BETWEEN"})))
            --at;
        if (at == i || at == 0 || (*pieces)[at - 1].kind != Kind::Word) continue;
        const Piece& name = (*pieces)[at - 1];
        const std::string written(query.substr(name.offset, name.length));
        return written.substr(written.rfind('.') + 1);
    }
    return {};
}

}  // namespace jollyrow
