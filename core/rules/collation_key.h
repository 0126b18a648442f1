// SPDX-License-Identifier: MIT
#pragma once
// Collations by name, for COLLATE: "C", "POSIX" and "ucs_basic" order by code points, "de-x-icu" as ICU orders texts in
// German, "und-x-icu" by the Unicode root collation (UTS #10). The names are PostgreSQL's own.

#include <memory>
#include <string>
#include <string_view>

namespace jollyrow {

bool isKnownCollation(std::string_view name);

/// Makes texts whose order, in the root collation, is that of other texts in this collation; ties by code points.
/// Confined to one thread.
class CollationKeys final {
  public:
    /// Requires: isKnownCollation(name).
    explicit CollationKeys(std::string_view name);
    ~CollationKeys();
    CollationKeys(const CollationKeys&) = delete;
    CollationKeys& operator=(const CollationKeys&) = delete;
    std::string of(std::string_view text) const;

  private:
    struct Collator;
    std::unique_ptr<Collator> collator_;  ///< null: by code points
};

}  // namespace jollyrow
