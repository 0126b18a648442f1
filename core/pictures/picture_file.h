// SPDX-License-Identifier: MIT
#pragma once
// Pictures that stand in files, named by a value of a record. What names them is not trusted: they are looked for in
// one folder and beneath it, and nothing but a plain file is opened.

#include <string>

#include "core/base/result.h"

namespace jollyrow {

/// Its bytes. `named` is relative to `folder`; fails when it leads out of it (by "..", a link or a path from the root),
/// is missing, is no plain file, or is larger than kMostPictureBytes. Blocks for reading.
Result<std::string> readPictureFile(const std::string& folder, const std::string& named);
/// Keeps a picture in the folder, which is made where it is missing, and tells the name it has there: that wished for,
/// made harmless, with the ending of its kind and a number where another picture has it. A file that is there is never
/// written over; one with the same bytes is taken. Blocks for writing.
Result<std::string> keepPictureFile(const std::string& folder, const std::string& wished, const std::string& bytes);
/// The bytes of a file that a person has chosen: of at most kMostPictureBytes, and a picture.
Result<std::string> readChosenPicture(const std::string& path);

}  // namespace jollyrow
