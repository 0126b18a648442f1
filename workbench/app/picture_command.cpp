// SPDX-License-Identifier: MIT
#include "workbench/app/picture_command.h"

#include <fmt/format.h>

#include <QApplication>
#include <QEventLoop>
#include <QImageWriter>
#include <QThread>

#include "commands/arguments.h"
#include "commands/commands.h"
#include "commands/output_file.h"
#include "core/rows/snapshot.h"
#include "grid/api/grid.h"
#include "grid/pictures/picture_shelf.h"
#include "workbench/app/look.h"

namespace jollyrow::commands {
namespace {

/// "1280x800" -> size; nullopt when it is not that or has too many pixels.
std::optional<QSize> sizeFrom(const QString& text) {
    const QStringList parts = text.split(u'x');
    if (parts.size() != 2) return std::nullopt;
    bool okWidth = false, okHeight = false;
    const QSize size(parts[0].toInt(&okWidth), parts[1].toInt(&okHeight));
    constexpr int kMostSide = 16384, kMostPixels = 40'000'000;
    const bool fits = okWidth && okHeight && size.width() >= 16 && size.height() >= 16 && size.width() <= kMostSide &&
                      size.height() <= kMostSide && size.width() <= kMostPixels / size.height();
    return fits ? std::optional(size) : std::nullopt;
}

/// The grid as it is when all is there: sorted, and its pictures decoded.
void awaitAll(Grid& grid) {
    // The sorted snapshot follows the load as one more queued call of the worker.
    const auto& plan = grid.design();
    for (int turn = 0; turn < 200 && !plan.sort.empty() &&
                       (!grid.snapshot() || !grid.snapshot()->order || !grid.snapshot()->table->complete);
         ++turn) {
        QCoreApplication::processEvents(QEventLoop::AllEvents, 20);
        QThread::msleep(5);
    }
    // Scroll bars come with the next turn of the event loop, pictures in cells after they were painted for the first
    // time.
    QCoreApplication::processEvents();
    grid.grab();
    for (int turn = 0; turn < 2000 && grid.pictures().isBusy(); ++turn) {
        QCoreApplication::processEvents(QEventLoop::AllEvents, 20);
        QThread::msleep(5);
    }
}

}  // namespace

int picture(const QStringList& arguments) {
    QCommandLineParser parser;
    parser.setApplicationDescription("\nDraws the grid of a design into a PNG picture.");
    parser.addPositionalArgument("DESIGN", "A design file (.jrow).");
    parser.addOptions({{{"o", "output"}, "The picture to write.", "FILE.png"},
                       {"size", "Width and height in pixels (default 1280x800).", "WxH", "1280x800"},
                       {"dark", "In the dark look."},
                       {"force", "Replace the file even when it is no picture."},
                       {"source", "A database to use instead of the design's.", "FILE"}});
    if (const auto code = parse(parser, "picture", arguments, 1)) return *code;
    const auto size = sizeFrom(parser.value("size"));
    if (!size)
        return complain(fmt::format("--size is like 1280x800, from 16x16 to 40 million pixels, not \"{}\".",
                                    parser.value("size").toStdString())),
               kUsage;
    if (parser.value("output").isEmpty()) return complain("Name the picture to write with -o FILE.png."), kUsage;
    const std::string design = parser.positionalArguments().first().toStdString();
    if (!isDesignPath(design)) return complain(fmt::format("{} is not a design file (.jrow).", design)), kUsage;

    const auto output = outputFile(parser.value("output").toStdString(), OutputKind::Picture, parser.isSet("force"));
    if (!output) return complain(output.error().message), kFailed;

    qputenv("QT_QPA_PLATFORM", "offscreen");
    int argc = 1;
    char name[] = "jollyrow";
    char* argv[] = {name, nullptr};
    QApplication application(argc, argv);
    applyLook(application, parser.isSet("dark") ? Theme::Dark : Theme::Light);
    Grid grid;
    grid.resize(*size);
    QEventLoop loaded;
    QString failure;
    QObject::connect(&grid, &Grid::loadEnded, &loaded, [&](const QString& error) {
        failure = error;
        loaded.quit();
    });
    if (auto opened = grid.open(QString::fromStdString(design), parser.value("source")); !opened)
        return complain(opened.error().message), kFailed;
    grid.show();
    loaded.exec();
    if (!failure.isEmpty()) return complain(failure.toStdString()), kFailed;
    awaitAll(grid);
    for (const Finding& finding : grid.findings()) complain(finding.message);
    const auto written = writeWhole(*output, [&](const std::string& beside) -> Result<void> {
        QImageWriter writer(QString::fromStdString(beside), "PNG");
        if (writer.write(grid.grab().toImage())) return {};
        return Error{ErrorCode::Io,
                     fmt::format("{} cannot be written. Is there room, and may you write there?", *output)};
    });
    if (!written) return complain(written.error().message), kFailed;
    return kDone;
}

}  // namespace jollyrow::commands
