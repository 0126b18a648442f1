// SPDX-License-Identifier: MIT
#pragma once
// The verbs of the command line that need no window. Each takes the arguments after its name and returns an exit code:
// 0 done, 1 it could not be done (the message on stderr says why), 2 the arguments are wrong.

#include <QStringList>

#include <string>

namespace jollyrow::commands {

inline constexpr int kDone = 0;
inline constexpr int kFailed = 1;
inline constexpr int kUsage = 2;

int rows(const QStringList& arguments);
int rule(const QStringList& arguments);
int makeNew(const QStringList& arguments);
int check(const QStringList& arguments);
int demoData(const QStringList& arguments);

/// The overview that `jollyrow --help` prints.
void printHelp();
/// A line on stderr.
void complain(const std::string& message);

}  // namespace jollyrow::commands
