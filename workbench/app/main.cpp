// SPDX-License-Identifier: MIT
// The one program: a verb runs without a window, anything else opens the workbench.
#include <fmt/format.h>

#include <QApplication>
#include <QStringDecoder>

#include <cerrno>
#include <csignal>
#include <cstdio>
#include <cstring>

#include "commands/commands.h"
#include "workbench/app/look.h"
#include "workbench/app/main_window.h"
#include "workbench/app/picture_command.h"

namespace {

using namespace jollyrow;

/// What the toolkit and its image readers have to say is meant for programmers; our own messages say what matters.
void keepQuiet(QtMsgType type, const QMessageLogContext&, const QString& message) {
    if (type == QtFatalMsg || qEnvironmentVariableIsSet("QT_LOGGING_RULES"))
        std::fprintf(stderr, "%s\n", message.toLocal8Bit().constData());
}

/// What was printed must have arrived.
int finished(int code) {
    if (code == commands::kDone && (std::fflush(stdout) != 0 || std::ferror(stdout) != 0)) {
        commands::complain(fmt::format("the output could not be written: {}.", std::strerror(errno)));
        return commands::kFailed;
    }
    return code;
}

bool hasDisplay(const QStringList& arguments) {
    for (const char* name : {"DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM"})
        if (!qEnvironmentVariableIsEmpty(name)) return true;
    return arguments.contains("-platform");
}

int openWorkbench(int argc, char** argv) {
    QApplication application(argc, argv);
    QApplication::setApplicationName("jollyrow");
    QApplication::setApplicationDisplayName("Jolly Row");
    applyLook(application, Settings::load().theme);
    MainWindow window;
    window.fitToScreen();
    window.show();
    const QStringList arguments = QApplication::arguments().mid(1);
    if (arguments.contains("--demo"))
        window.openDemo();
    else if (!arguments.isEmpty())
        window.openPath(arguments.first());
    return QApplication::exec();
}

}  // namespace

int main(int argc, char** argv) {
    struct Verb {
        const char* name;
        int (*run)(const QStringList&);
    };
    constexpr Verb kVerbs[] = {{"rows", commands::rows},
                               {"rule", commands::rule},
                               {"new", commands::makeNew},
                               {"check", commands::check},
                               {"demo-data", commands::demoData}};
    QStringList arguments;
    for (int i = 1; i < argc; ++i) {
        QStringDecoder utf8(QStringDecoder::Utf8);
        arguments << utf8(argv[i]);
        if (!utf8.hasError()) continue;
        commands::complain(
            fmt::format("argument {} is not UTF-8 text. A file of such a name can be given by a link.", i));
        return commands::kUsage;
    }
    qInstallMessageHandler(keepQuiet);
    std::signal(SIGPIPE, SIG_IGN);  // a reader that goes away is an error to be said, like a full disk
    const QString first = arguments.value(0);
    if (first == "--help" || first == "-h") {
        commands::printHelp();
        return commands::kDone;
    }
    if (first == "--version" || first == "-v") {
        std::puts("jollyrow " JOLLYROW_VERSION);
        return commands::kDone;
    }
    for (const Verb& verb : kVerbs) {
        if (first != verb.name) continue;
        const QCoreApplication application(argc, argv);
        return finished(verb.run(arguments.mid(1)));
    }
    if (first == "picture") return finished(commands::picture(arguments.mid(1)));
    if (first.startsWith('-') && first != "--demo" && !first.startsWith("-platform")) {
        commands::complain("there is no option " + first.toStdString() + ". See jollyrow --help.");
        return commands::kUsage;
    }
    if (!first.isEmpty() && !first.startsWith('-') && !first.contains('/') && !first.contains('.')) {
        commands::complain("there is no verb " + first.toStdString() + ". See jollyrow --help.");
        return commands::kUsage;
    }
    if (!hasDisplay(arguments)) {
        commands::complain(
            "there is no display to open the window on (neither DISPLAY nor WAYLAND_DISPLAY is set). "
            "jollyrow --help lists what works without one.");
        return commands::kFailed;
    }
    return openWorkbench(argc, argv);
}
