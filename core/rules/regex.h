// SPDX-License-Identifier: MIT
#pragma once
// Regular expressions for rules, matched by ICU (UTS #18), within bounds of time and of stack.
// They are read as PostgreSQL reads its advanced ones where both know a thing: . matches line ends, ^ and $ the ends of
// the text alone, \m \M \y stand at words. One difference stays: of alternatives the first that matches is taken, not
// the longest.

#include <cstddef>
#include <cstdint>
#include <limits>
#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace jollyrow {

/// A part of a text in bytes.
struct RegexSpan {
    std::size_t begin = 0, end = 0;
    bool isSet = false;  ///< a group that took no part is not
};

/// Confined to one thread.
class Regex final {
  public:
    /// Flags: i (any case), c (case counts), n or m (^ and $ at lines, . not over their ends), p, w, s, x (blanks and
    /// comments in the pattern), q (the pattern is a plain text), g. nullopt for a pattern or a flag that makes no
    /// sense.
    static std::optional<Regex> make(std::string_view pattern, std::string_view flags);
    /// SIMILAR TO (ISO/IEC 9075-2, 8.6): % and _ as in LIKE; | * + ? {m,n} ( ) [ ] as in regular expressions; the whole
    /// text is matched. `escape` is one code point, or empty for none.
    static std::optional<Regex> similar(std::string_view pattern, std::string_view escape);
    ~Regex();
    Regex(Regex&&) noexcept;
    Regex& operator=(Regex&&) noexcept;

    enum class Outcome { Found, NotFound, TooSlow };
    /// Looks at this text from now on; it must stay.
    void setText(std::string_view text);
    /// The next match from `from` bytes on; group 0 is the whole.
    Outcome find(std::size_t from);
    RegexSpan group(int number) const;
    int groups() const;
    bool isGlobal() const { return isGlobal_; }  ///< flag g

  private:
    struct Handles;
    Regex();
    static std::optional<Regex> compiled(const std::string& pattern, unsigned flags);
    std::unique_ptr<Handles> handles_;
    bool isGlobal_ = false;
};

/// What an argument is that was left out, where that says something of its own: which match, or which group.
inline constexpr std::int64_t kUnstated = std::numeric_limits<std::int64_t>::min();

/// Keeps the last pattern that was asked for. After several texts that took too long, it answers so at once.
class RegexCache final {
  public:
    /// Null when the pattern makes no sense. Valid until the next call.
    Regex* get(std::string_view pattern, std::string_view flags, bool isSimilar);
    bool isSpent() const { return slow_ >= kMostSlow; }
    void countSlow() { ++slow_; }

  private:
    static constexpr int kMostSlow = 3;
    std::string key_;
    std::optional<Regex> regex_;
    bool isMade_ = false;
    int slow_ = 0;
};

}  // namespace jollyrow
