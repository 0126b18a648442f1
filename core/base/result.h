// SPDX-License-Identifier: MIT
#pragma once
// Result and Error: how every failure leaves the core. Nothing throws out of the core's API.
// Used by all rooms; holds no text formatting beyond the message itself.

#include <cstddef>
#include <cstdint>
#include <optional>
#include <string>
#include <utility>
#include <variant>

namespace jollyrow {

/// What kind of failure it is, so that a caller can decide without reading the message.
enum class ErrorCode {
    InvalidInput,   ///< what was typed, passed or written in a file makes no sense
    NotFound,       ///< a file, table, column or record is not there
    NotADatabase,   ///< the file exists and is something else
    Locked,         ///< another program holds it; trying again may help
    ReadOnly,       ///< it can be read and not written
    DiskFull,       ///< no room left; nothing was written
    Conflict,       ///< the record was changed or removed meanwhile
    Refused,        ///< the database's own constraints said no
    Cancelled,      ///< asked to stop
    Unsupported,    ///< a sound request that this source cannot serve
    Io,             ///< the operating system said no
    NeedsPassword,  ///< a server asks for one, or did not take the one it got (core/sources/credentials.h)
};

/// A half-open range of bytes in the text that was at fault (a rule, a sort list, a file).
struct TextRange {
    std::size_t offset = 0;
    std::size_t length = 0;
    bool operator==(const TextRange&) const = default;
};

/// Says what, where and what to do, in words meant for the person at the screen.
struct Error {
    ErrorCode code = ErrorCode::InvalidInput;
    std::string message;
    std::optional<TextRange> where = std::nullopt;
};

/// Either a value or an Error. Requires: value() only when ok(), error() only when not.
template <class T>
class [[nodiscard]] Result {
  public:
    Result(T value) : state_(std::in_place_index<0>, std::move(value)) {}
    Result(Error error) : state_(std::in_place_index<1>, std::move(error)) {}

    bool ok() const { return state_.index() == 0; }
    explicit operator bool() const { return ok(); }
    T& value() & { return std::get<0>(state_); }
    const T& value() const& { return std::get<0>(state_); }
    T&& value() && { return std::get<0>(std::move(state_)); }
    const Error& error() const { return std::get<1>(state_); }
    T* operator->() { return &value(); }
    const T* operator->() const { return &value(); }
    T& operator*() & { return value(); }
    const T& operator*() const& { return value(); }
    T&& operator*() && { return std::move(*this).value(); }

  private:
    std::variant<T, Error> state_;
};

/// Success carries nothing.
template <>
class [[nodiscard]] Result<void> {
  public:
    Result() = default;
    Result(Error error) : error_(std::move(error)) {}

    bool ok() const { return !error_; }
    explicit operator bool() const { return ok(); }
    const Error& error() const { return *error_; }

  private:
    std::optional<Error> error_;
};

}  // namespace jollyrow
