// SPDX-License-Identifier: MIT
#pragma once
// What every store does with several records alike, whatever database it writes to; and a search that every look-up
// has.

#include <array>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "core/sources/source.h"

namespace jollyrow {

/// Places in a batch, in the order in which they are written.
using WriteOrder = std::vector<std::size_t>;
/// As they stand.
WriteOrder inOrder(std::span<const RecordWrite> records);
/// The records of each kind together, the kinds in this order.
WriteOrder inTurns(std::span<const RecordWrite> records, std::array<RecordChange, 3> turns);

bool isStored(const Outcome& outcome);
bool areStored(const std::vector<Outcome>& outcomes);
/// It names an earlier write of its batch.
bool needsEarlier(const RecordWrite& record);
/// With the key that an earlier write of the same batch has got, and with what one has taken along.
RecordWrite withEarlier(const RecordWrite& record, const std::vector<Outcome>& outcomes);
/// Records that were gone when their turn to be deleted came, where an earlier deletion of the batch has taken some of
/// their table along: they go before it. nullopt when there are none.
std::optional<WriteOrder> withGoneEarlier(std::span<const RecordWrite> records, const WriteOrder& order,
                                          const std::vector<Outcome>& outcomes);
/// In so many orders a batch is tried: deletions may take each other along in a circle.
inline constexpr int kMostOrders = 8;
/// Of a record that is to be made again, when not all that was deleted with it is known.
Problem tooMuchWithIt();
/// Of records that stand or fall together, one was not stored: the others are Problems of code Cancelled.
void takeBack(std::vector<Outcome>& outcomes);

/// For LIKE with the escape '\': the text itself, anywhere.
std::string likeContaining(std::string_view text);

}  // namespace jollyrow
