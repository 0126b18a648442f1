// SPDX-License-Identifier: MIT
#pragma once
// Editing the tree of a face: putting parts in, moving and taking them out, so that every tree that comes out is one
// that can be shown: no empty containers, no rows of one.

#include <optional>
#include <string>
#include <vector>

#include "core/design/design.h"

namespace jollyrow {

/// Child numbers from the root.
using FacePath = std::vector<std::size_t>;

/// Where a part goes, beside another one.
enum class FaceSide { Before, After, Above, Below };
struct FaceLanding {
    FacePath at;  ///< of the part it stands beside
    FaceSide side = FaceSide::After;
    bool operator==(const FaceLanding&) const = default;
};

/// Puts a part in beside another; both come into a row or a column of their own where they are in none. Its path;
/// nullopt when there is nothing at `at` or the face would have too many parts or levels.
std::optional<FacePath> insertPart(FacePart& root, FacePart part, const FaceLanding& landing);
/// Takes a part out. What held it and has one part left goes as well, unless it has a condition or rules of its own. A
/// face that would be empty shows the column's field. The path of what stands there now; nullopt when there is no such
/// part.
std::optional<FacePath> removePart(FacePart& root, const FacePath& path);
/// The new path; nullopt when it cannot go there, e.g. into itself. The tree is as it was then.
std::optional<FacePath> movePart(FacePart& root, const FacePath& from, const FaceLanding& to);
/// One place on among the parts of what holds it. False at the end.
bool shiftPart(FacePart& root, FacePath& path, int by);

/// "text, {name} · {length}", "mark", "bar of hours": for lists and assistive technology.
std::string partWords(const FacePart& part, const Design& design, const std::string& ownField);

/// A name that no face has: "status", "status 2".
std::string freeFaceName(const Design& design, const std::string& wish);
/// Another name; columns go along. False when it is empty or another face has it.
bool renameFace(Design& design, const std::string& from, const std::string& to);
/// Lets a column use a face; the one that it alone had goes. False when there is no such face or column.
bool shareFace(Design& design, const std::string& field, const std::string& face);
/// The tree of the face that a column has, for all that share it; one of its own where it has none.
void composeFace(Design& design, const std::string& field, FacePart root);
/// Gives a column a face of its own name with this tree; the one that it alone had is replaced.
void giveFace(Design& design, const std::string& field, FacePart root);
/// Back to the face by type. Faces that no column names any more go.
void dropFace(Design& design, const std::string& field);
/// How many columns use a face.
int usersOf(const Design& design, const std::string& face);

}  // namespace jollyrow
