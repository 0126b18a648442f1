// SPDX-License-Identifier: MIT
// jollyrow new, check, demo-data.
#include <fmt/format.h>

#include <cstdio>
#include <filesystem>

#include "commands/arguments.h"
#include "commands/commands.h"
#include "commands/output_file.h"
#include "core/base/source_address.h"
#include "core/design/design_file.h"
#include "core/design/make_design.h"
#include "core/design/plan.h"
#include "demo/boatyard.h"
#include "demo/server_boatyard.h"

namespace jollyrow::commands {

int makeNew(const QStringList& arguments) {
    QCommandLineParser parser;
    parser.setApplicationDescription("\nWrites the design that a table gets by itself.");
    parser.addPositionalArgument("WHAT", "An SQLite database file.");
    parser.addOptions({{"table", "The table or view.", "T"},
                       {"query", "A SELECT instead of a table.", "SELECT"},
                       {{"o", "output"}, "The design file to write.", "FILE.jrow"},
                       {"force", "Replace the file when it exists."}});
    if (const auto code = parse(parser, "new", arguments, 1)) return *code;
    const std::string output = parser.value("output").toStdString();
    if (output.empty()) return complain("Name the file to write with -o FILE.jrow."), kUsage;
    if (!isDesignPath(output))
        return complain(fmt::format("A design file ends in .jrow; {} does not.", output)), kUsage;
    if (std::filesystem::exists(output) && !parser.isSet("force"))
        return complain(fmt::format("{} exists. Give another name, or --force to replace it.", output)), kFailed;
    if (const auto real = outputFile(output, OutputKind::Design, parser.isSet("force")); !real)
        return complain(real.error().message), kFailed;
    auto opened = open({parser.positionalArguments().first().toStdString(),
                        parser.value("table").toStdString(),
                        parser.value("query").toStdString(),
                        {}});
    if (!opened) return complain(opened.error().message), kFailed;
    opened->design.source.path = storedSourcePath(opened->sourcePath, output);
    if (auto written = writeDesignFile(output, opened->design); !written)
        return complain(written.error().message), kFailed;
    return kDone;
}

int check(const QStringList& arguments) {
    QCommandLineParser parser;
    parser.setApplicationDescription(
        "\nChecks a design against its database and prints what it finds, one a line.\n"
        "Exit code 0: nothing is in the way; 1: there are problems, or it could not be opened.");
    parser.addPositionalArgument("DESIGN", "A design file (.jrow).");
    parser.addOptions({{"source", "A database to check against instead of the design's.", "FILE"}});
    if (const auto code = parse(parser, "check", arguments, 1)) return *code;
    const std::string path = parser.positionalArguments().first().toStdString();
    if (!isDesignPath(path)) return complain(fmt::format("{} is not a design file (.jrow).", path)), kUsage;
    auto opened = open({path, {}, {}, parser.value("source").toStdString()});
    if (!opened) return complain(opened.error().message), kFailed;
    std::vector<Finding> findings = opened->findings;
    const ViewPlan plan = planOf(opened->design, opened->schema);
    findings.insert(findings.end(), plan.findings.begin(), plan.findings.end());
    bool problems = false;
    for (const Finding& finding : findings) {
        std::printf("%s: %s: %s\n", std::string(name(finding.severity)).c_str(), finding.where.c_str(),
                    finding.message.c_str());
        problems = problems || finding.severity == Severity::Problem;
    }
    std::printf("%zu findings; %zu columns of %s.\n", findings.size(), plan.columns.size(),
                opened->schema.name.c_str());
    return problems ? kFailed : kDone;
}

int demoData(const QStringList& arguments) {
    QCommandLineParser parser;
    parser.setApplicationDescription("\nMakes Kelpie Quay, a made-up boatyard, as an SQLite database.");
    parser.addPositionalArgument("FILE.db", "The database to write; one that this made before is replaced.");
    parser.addOptions(
        {{"jobs", "How many jobs (default 5000).", "N", "5000"},
         {"seed", "The same seed gives the same content (default 1).", "S", "1"},
         {"design", "Also write the design \"Yard jobs\" that comes with it.", "FILE.jrow"},
         {"grouped-design", "Also write \"Yard work\": those jobs by status and dock.", "FILE.jrow"},
         {"board-design", "Also write \"Yard board\": those jobs with composed faces.", "FILE.jrow"},
         {"lines-design", "Also write \"Job lines\": what each job is made of, beneath a banner row.", "FILE.jrow"},
         {"server", "Also put these records on a server, into a database that has no such tables; designs name it.",
          "postgresql://…"},
         {"force", "Replace files even when they are something else."}});
    if (const auto code = parse(parser, "demo-data", arguments, 1)) return *code;
    bool jobsOk = false, seedOk = false;
    demo::BoatyardSize size;
    size.jobs = parser.value("jobs").toLongLong(&jobsOk);
    size.seed = parser.value("seed").toULongLong(&seedOk);
    if (!jobsOk || size.jobs < 0 || size.jobs > 2'000'000'000)
        return complain("--jobs takes a whole number from 0 to 2 000 000 000."), kUsage;
    if (!seedOk) return complain("--seed takes a whole number from 0."), kUsage;
    const std::string path = parser.positionalArguments().first().toStdString();
    const std::string server = parser.value("server").toStdString();
    if (parser.isSet("server") && !isServerAddress(server))
        return complain("--server takes an address such as postgresql://user@host/database."), kUsage;
    // All is looked at before anything is written.
    const bool force = parser.isSet("force");
    const auto database = outputFile(path, OutputKind::Boatyard, force);
    if (!database) return complain(database.error().message), kFailed;
    for (const char* option : {"design", "grouped-design", "board-design", "lines-design"}) {
        const std::string design = parser.value(option).toStdString();
        if (design.empty()) continue;
        if (!isDesignPath(design))
            return complain(fmt::format("A design file ends in .jrow; {} does not.", design)), kUsage;
        if (const auto real = outputFile(design, OutputKind::Design, force); !real)
            return complain(real.error().message), kFailed;
    }
    if (auto made = demo::makeBoatyard(*database, size, {}); !made) return complain(made.error().message), kFailed;
    if (!server.empty())
        if (auto copied = demo::copyToServer(*database, server); !copied)
            return complain(copied.error().message), kFailed;
    for (const auto& [option, design] :
         {std::pair{"design", &demo::yardJobsDesign}, std::pair{"grouped-design", &demo::yardWorkDesign},
          std::pair{"board-design", &demo::yardBoardDesign}, std::pair{"lines-design", &demo::yardLinesDesign}}) {
        if (!parser.isSet(option)) continue;
        const std::string designPath = parser.value(option).toStdString();
        if (auto written =
                writeDesignFile(designPath, design(server.empty() ? storedSourcePath(path, designPath) : server));
            !written)
            return complain(written.error().message), kFailed;
    }
    return kDone;
}

void printHelp() {
    std::fputs(
        "Usage: jollyrow [FILE]            open the workbench, on a design or a database if one is given\n"
        "       jollyrow VERB …\n\n"
        "Designs native data grids for business forms on real database records.\n\n"
        "Verbs (each has --help):\n"
        "  rows WHAT         print the records of a design, table or SELECT\n"
        "  rule RULE         say what a rule gives, and its SQL\n"
        "  new WHAT          write the design that a table gets by itself\n"
        "  check DESIGN      check a design against its database\n"
        "  picture DESIGN    draw the grid of a design into a PNG\n"
        "  demo-data FILE    make the made-up boatyard\n\n"
        "Options:\n"
        "  -h, --help        print this\n"
        "  -v, --version     print the version\n\n"
        "Exit codes: 0 done, 1 it could not be done, 2 the arguments are wrong.\n",
        stdout);
}

}  // namespace jollyrow::commands
