// SPDX-License-Identifier: MIT
#pragma once
// LikePattern: a LIKE pattern made ready: % is any run of characters, _ any one code point, what follows the escape
// character stands for itself. Case counts. Immutable.

#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace jollyrow {

class LikePattern final {
  public:
    /// `escape` is one code point, or empty for none. nullopt when it is longer, or the pattern ends with it.
    static std::optional<LikePattern> make(std::string_view pattern, std::string_view escape);
    /// O(text * pattern) at worst, O(text) for the usual forms.
    bool matches(std::string_view text) const;
    /// The text between two %, when the pattern is just that: such patterns may be searched for in many texts at once.
    const std::string* contained() const { return form_ == Form::Contains ? &pieces_[0].text : nullptr; }

  private:
    enum class Form { Equals, StartsWith, EndsWith, Contains, General };
    /// A run of characters, `_` among them as marked.
    struct Piece {
        std::string text;
        bool hasAny = false;
        std::vector<bool> any;  ///< by byte of `text`: stands for any one code point
    };
    std::size_t matchHere(const Piece& piece, std::string_view text, std::size_t at) const;
    std::size_t find(const Piece& piece, std::string_view text, std::size_t from) const;

    Form form_ = Form::General;
    bool openStart_ = false, openEnd_ = false;  ///< begins, ends with %
    std::vector<Piece> pieces_;                 ///< between the runs of %
};

}  // namespace jollyrow
