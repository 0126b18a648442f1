// SPDX-License-Identifier: MIT
#pragma once
// Formatter: a column's format made ready: writes its values for people and reads what they type, through ICU, by the
// patterns of UTS #35 (CLDR): numbers, dates, skeletons, messages. Made once a column and kept, for making one costs as
// much as writing fifty cells (LIMITS.md 6).

#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "core/base/result.h"
#include "core/columns/column.h"
#include "core/columns/schema.h"
#include "core/columns/value.h"
#include "core/formats/text_format.h"

namespace jollyrow {

/// Answers what a name in a message stands for: its field, and the field that is shown for it (a look-up's label).
struct MessageField {
    FieldIndex field{};
    FieldIndex shown{};
};

/// True for a BCP 47 tag of a language that ISO 639 has, and for "".
bool isKnownLocale(const std::string& tag);

/// Immutable; any thread may use it. What ICU does not promise to be safe is locked inside.
class Formatter final {
  public:
    /// The value of a field in the record being written.
    using ReadField = std::function<Value(FieldIndex)>;
    using FindField = std::function<std::optional<MessageField>(std::string_view name)>;

    /// Fails when the pattern is wrong or is for another type; the error says what is wrong and where in the pattern.
    /// `find` and `schema` serve messages; the schema is not kept.
    static Result<std::shared_ptr<const Formatter>> make(const TextFormat& format, const TableSchema& schema,
                                                         const FindField& find);
    /// The automatic one, which cannot fail.
    static std::shared_ptr<const Formatter> automatic(const TextFormat& format);
    ~Formatter();

    const TextFormat& format() const { return format_; }
    /// Fields that a message reads, each once; empty for other styles.
    const std::vector<FieldIndex>& fieldsRead() const { return fieldsRead_; }
    bool isMessage() const { return format_.spec.style == FormatStyle::Message; }

    /// Appends the text of a value; nothing when there is none. Not for messages. About half a microsecond for a
    /// number, two for a date; a twentieth of that in the automatic style.
    void append(std::string& out, const Column& column, SourceRow row) const;
    void append(std::string& out, const Value& value) const;
    /// Appends a message over the record's fields; nothing when a field it formats is empty.
    void appendMessage(std::string& out, const ReadField& read) const;

    /// What was typed -> a value: as this format writes it, else in plain form (text_format.h). Refuses with the
    /// reason.
    Result<Value> parse(std::string_view typed, const FieldSchema& field) const;
    /// What the entry shows when a cell's editor opens: as displayed when that reads back as the same value, else
    /// plain.
    std::string editText(const Value& value, const FieldSchema& field) const;

    struct Engine;

  private:
    explicit Formatter(TextFormat format);
    void appendNumber(std::string& out, const Value& value) const;
    std::optional<Value> parseStyled(std::string_view typed, const FieldSchema& field) const;

    TextFormat format_;
    std::vector<FieldIndex> fieldsRead_;
    std::unique_ptr<Engine> engine_;  ///< null when the automatic form does
};

}  // namespace jollyrow
