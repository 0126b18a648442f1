// SPDX-License-Identifier: MIT
#include "commands/arguments.h"

#include <fmt/format.h>

#include <termios.h>
#include <unistd.h>

#include <cstdio>

#include "commands/commands.h"
#include "core/base/source_address.h"
#include "core/columns/time_zone.h"
#include "core/design/design_file.h"
#include "core/design/make_design.h"
#include "core/session/schema_for.h"
#include "core/sources/credentials.h"

namespace jollyrow::commands {

void complain(const std::string& message) { std::fprintf(stderr, "jollyrow: %s\n", message.c_str()); }

namespace {

/// The toolkit takes "-1 + hours" for options "1", " ", "+", …; a rule may well begin so.
std::string unknownOption(const QCommandLineParser& parser, const QStringList& arguments) {
    const QStringList unknown = parser.unknownOptionNames();
    if (unknown.isEmpty()) return parser.errorText().toStdString() + ".";
    for (const QString& argument : arguments)
        if (argument.startsWith(u'-') && !argument.startsWith("--") && argument.size() > 2 &&
            argument.contains(unknown.front()))
            return fmt::format("\"{}\" begins as an option does. What is none stands behind --, as the last argument.",
                               argument.toStdString());
    return fmt::format("There is no option {}{}.", unknown.front().size() > 1 ? "--" : "-",
                       unknown.front().toStdString());
}

}  // namespace

std::optional<int> parse(QCommandLineParser& parser, const QString& verb, const QStringList& arguments,
                         int positionals) {
    parser.addOption({{"h", "help"}, "Print this and stop."});
    if (!parser.parse(QStringList{"jollyrow " + verb} + arguments)) {
        complain(fmt::format("{} See jollyrow {} --help.", unknownOption(parser, arguments), verb.toStdString()));
        return kUsage;
    }
    if (parser.isSet("help")) {
        // Qt's own text names the executable; the verb belongs behind it.
        QString text = parser.helpText();
        const qsizetype start = text.indexOf(u'\n');
        QString usage = "Usage: jollyrow " + verb;
        const qsizetype options = text.indexOf("[options]");
        if (options >= 0 && options < start) usage += " " + text.mid(options, start - options);
        std::fputs((usage + text.mid(start)).toUtf8().constData(), stdout);
        return kDone;
    }
    const auto given = parser.positionalArguments().size();
    if (given != positionals) {
        complain(given < positionals
                     ? fmt::format("Something is missing. See jollyrow {} --help.", verb.toStdString())
                     : fmt::format("\"{}\" is one argument too many. See jollyrow {} --help.",
                                   parser.positionalArguments().at(positionals).toStdString(), verb.toStdString()));
        return kUsage;
    }
    return std::nullopt;
}

namespace {

/// The server that would be opened.
std::optional<std::string> addressOf(const What& what) {
    if (!what.source.empty()) return what.source;
    if (!isDesignPath(what.path)) return what.path;
    const auto read = readDesignFile(what.path);
    return read ? std::optional(resolvedSourcePath(read->design, what.path)) : std::nullopt;
}

/// Typed unseen in a terminal; nothing where there is none, or nothing was typed.
std::optional<std::string> askedPassword(const std::string& why) {
    if (isatty(STDIN_FILENO) == 0 || isatty(STDERR_FILENO) == 0) return std::nullopt;
    termios before{};
    if (tcgetattr(STDIN_FILENO, &before) != 0) return std::nullopt;
    termios unseen = before;
    unseen.c_lflag &= ~static_cast<tcflag_t>(ECHO);
    tcsetattr(STDIN_FILENO, TCSAFLUSH, &unseen);  // before the question: what answers it must not be flushed
    std::fprintf(stderr, "%s\nPassword: ", why.c_str());
    std::string typed;
    for (int c = std::getchar(); c != EOF && c != '\n'; c = std::getchar()) typed += static_cast<char>(c);
    tcsetattr(STDIN_FILENO, TCSAFLUSH, &before);
    std::fputc('\n', stderr);
    return typed.empty() ? std::nullopt : std::optional(typed);
}

}  // namespace

bool isDesignPath(const std::string& path) { return path.ends_with(".jrow"); }

namespace {

/// The one table to take when none is named; says which there are when it is not clear.
Result<std::string> onlyTable(const Source& source, const std::string& path) {
    auto tables = source.tables();
    if (!tables) return tables.error();
    if (tables->size() == 1) return tables->front().name;
    if (tables->empty()) return Error{ErrorCode::NotFound, fmt::format("{} has no tables.", path)};
    std::string names;
    for (const TableSummary& table : *tables) names += (names.empty() ? "" : ", ") + table.name;
    return Error{ErrorCode::InvalidInput,
                 fmt::format("{} has several tables; name one with --table: {}.", path, names)};
}

}  // namespace

namespace {

/// What the command line says of how fields are read, and whose clocks show points of time.
Result<void> takeReading(const What& what, SourceDesign& source) {
    for (const std::string& said : what.readAs) {
        const std::size_t sign = said.find('=');
        auto how = sign == std::string::npos
                       ? Result<ReadAs>(Error{ErrorCode::InvalidInput, "COLUMN=FORM is expected."})
                       : readAsFromText(std::string_view(said).substr(sign + 1));
        if (!how) return Error{ErrorCode::InvalidInput, fmt::format("--read-as {}: {}", said, how.error().message)};
        source.readAs[said.substr(0, sign)] = std::move(*how);
    }
    if (what.zone.empty()) return {};
    if (!TimeZone::named(what.zone))
        return Error{ErrorCode::NotFound,
                     fmt::format("There is no time zone {}. Zones are named like Europe/Berlin.", what.zone)};
    source.zone = what.zone;
    return {};
}

Result<Opened> opened(const What& what) {
    Opened opened;
    if (isDesignPath(what.path)) {
        auto read = readDesignFile(what.path);
        if (!read) return read.error();
        opened.design = std::move(read->design);
        opened.findings = std::move(read->findings);
        opened.sourcePath = what.source.empty() ? resolvedSourcePath(opened.design, what.path) : what.source;
        if (opened.sourcePath.empty())
            return Error{ErrorCode::InvalidInput,
                         fmt::format("{} names no database. Give one with --source.", what.path)};
    } else {
        opened.sourcePath = what.path;
    }
    auto source = openSource(opened.sourcePath);
    if (!source) return source.error();
    opened.source = std::move(*source);
    // How fields are read was said of the design's own table.
    const SourceDesign& own = opened.design.source;
    if ((!what.table.empty() && what.table != own.table) || (!what.query.empty() && what.query != own.query))
        opened.design.source.readAs.clear();
    if (auto taken = takeReading(what, opened.design.source); !taken) return taken.error();
    const SourceDesign given = opened.design.source;
    Binding binding = bindingOf(given);
    if (!what.table.empty() || !what.query.empty()) {
        binding.table = what.table;
        binding.query = what.query;
    }
    if (binding.table.empty() && binding.query.empty()) {
        auto only = onlyTable(*opened.source, opened.sourcePath);
        if (!only) return only.error();
        binding.table = *only;
    }
    auto schema = opened.source->schema(binding);
    if (!schema) return schema.error();
    opened.schema = std::move(*schema);
    for (const std::string& said : what.readAs)
        if (const std::string field = said.substr(0, said.find('='));
            !opened.schema.find(field) && field.find('.') == std::string::npos)
            return Error{ErrorCode::NotFound,
                         fmt::format("--read-as {}: {} has no such column.", said, opened.schema.name)};
    const bool rebound = binding.table != given.table || binding.query != given.query;
    if (rebound || opened.design.columns.empty())
        opened.design = designFor(opened.schema, {sourceKindOf(opened.sourcePath), opened.sourcePath, binding.table,
                                                  binding.query, given.readAs, given.zone});
    auto whole = schemaFor(*opened.source, opened.design);
    if (!whole) return whole.error();
    opened.schema = std::move(*whole);
    return opened;
}

}  // namespace

Result<Opened> open(const What& what) {
    constexpr int kTries = 3;
    auto found = opened(what);
    for (int n = 0; n < kTries && !found && found.error().code == ErrorCode::NeedsPassword; ++n) {
        const auto address = addressOf(what);
        const auto password = address ? askedPassword(found.error().message) : std::nullopt;
        if (!password)
            return Error{ErrorCode::NeedsPassword,
                         found.error().message + " Keep it in ~/.pgpass or PGPASSWORD, or call this in a terminal."};
        setPassword(*address, *password);
        found = opened(what);
    }
    return found;
}

void takeRelated(Opened& opened, const std::vector<std::string>& names) {
    if (opened.schema.isView) return;
    Binding wider = bindingFor(opened.design, opened.schema);
    for (const std::string& name : names)
        if (name.find('.') != std::string::npos) wider.related.push_back(name);
    if (auto schema = opened.source->schema(wider))
        opened.schema = withComputedFields(std::move(*schema), opened.design);
}

std::string withPlace(const Error& error, const std::string& text) {
    if (!error.where) return error.message;
    // Of a long text what stands around the place, cut between characters.
    constexpr std::size_t kAround = 60;
    const auto isInside = [&](std::size_t i) {
        return i < text.size() && (static_cast<unsigned char>(text[i]) & 0xC0) == 0x80;
    };
    const std::size_t at = std::min(error.where->offset, text.size());
    std::size_t from = at > kAround ? at - kAround : 0, to = std::min(text.size(), at + error.where->length + kAround);
    while (isInside(from)) --from;
    while (isInside(to)) ++to;
    std::string quoted = text.substr(from, to - from);
    for (char& c : quoted)
        if (c == '\n' || c == '\t' || c == '\r') c = ' ';
    std::size_t before = 0;  // characters, not bytes
    for (std::size_t i = from; i < at; ++i) before += isInside(i) ? 0 : 1;
    const std::size_t marked =
        std::min(std::max<std::size_t>(1, error.where->length), std::max<std::size_t>(1, to - at));
    const std::string lead = from > 0 ? "… " : "";
    return fmt::format("{}\n  {}{}{}\n  {}{}", error.message, lead, quoted, to < text.size() ? " …" : "",
                       std::string(before + (from > 0 ? 2 : 0), ' '), std::string(marked, '^'));
}

}  // namespace jollyrow::commands
