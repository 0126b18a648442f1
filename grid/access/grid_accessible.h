// SPDX-License-Identifier: MIT
#pragma once
// The grid for assistive technology: a table of rows, columns, headings with their tiers, cells with name, value, state
// and actions. Made by the toolkit when one is listening; costs nothing else.

namespace jollyrow {

/// Registers the factory with the toolkit, once a process. Called by Grid's constructor.
void installGridAccessibility();

}  // namespace jollyrow
