// SPDX-License-Identifier: MIT
#pragma once
// What every verb does with its arguments, and how WHAT on the command line becomes a source and a design.

#include <QCommandLineParser>
#include <QStringList>

#include <memory>
#include <optional>
#include <string>

#include "core/base/result.h"
#include "core/design/design.h"
#include "core/design/finding.h"
#include "core/sources/source.h"

namespace jollyrow::commands {

/// Parses; nullopt to go on, else the exit code (help printed, or the mistake said).
std::optional<int> parse(QCommandLineParser& parser, const QString& verb, const QStringList& arguments,
                         int positionals);

/// A source opened for reading, its schema, and the design that came with it or that it gets by itself.
struct Opened {
    std::shared_ptr<const Source> source;
    std::string sourcePath;
    TableSchema schema;
    Design design;
    std::vector<Finding> findings;  ///< from the design file
};

struct What {
    std::string path;   ///< a .jrow design or a database file
    std::string table;  ///< instead of the design's; required for a database of several tables unless query is given
    std::string query;
    std::string source;                    ///< a database instead of the design's
    std::vector<std::string> readAs = {};  ///< "due=date dd.MM.yyyy" (readAsFromText)
    std::string zone = {};                 ///< instead of the design's
};
Result<Opened> open(const What& what);
/// Widens the schema by the related fields among `names`.
void takeRelated(Opened& opened, const std::vector<std::string>& names);
/// The message, and the place of the error underlined in a text of one line.
std::string withPlace(const Error& error, const std::string& text);
bool isDesignPath(const std::string& path);

}  // namespace jollyrow::commands
