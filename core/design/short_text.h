// SPDX-License-Identifier: MIT
#pragma once
// Texts cut to what a line can show, for keys and figures of any length.

#include <string>
#include <string_view>

namespace jollyrow {

/// Appends at most about 200 bytes of `text`, cut at a character's end, with an ellipsis when there was more.
void appendShort(std::string& out, std::string_view text);
/// The same in place.
void shorten(std::string& text);

}  // namespace jollyrow
