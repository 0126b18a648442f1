// SPDX-License-Identifier: MIT
// The one program: a verb runs without a window, anything else opens the workbench.
#include <QApplication>

#include <cstdio>

#include "commands/commands.h"
#include "workbench/look.h"
#include "workbench/main_window.h"
#include "workbench/picture_command.h"

namespace {

using namespace jollyrow;

int openWorkbench(int argc, char** argv) {
    QApplication application(argc, argv);
    QApplication::setApplicationName("jollyrow");
    QApplication::setApplicationDisplayName("Jolly Row");
    applyLook(application, Settings::load().theme);
    MainWindow window;
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
    for (int i = 1; i < argc; ++i) arguments << QString::fromLocal8Bit(argv[i]);
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
        return verb.run(arguments.mid(1));
    }
    if (first == "picture") return commands::picture(arguments.mid(1));
    if (first.startsWith('-') && first != "--demo" && !first.startsWith("-platform")) {
        commands::complain("there is no option " + first.toStdString() + ". See jollyrow --help.");
        return commands::kUsage;
    }
    if (!first.isEmpty() && !first.startsWith('-') && !first.contains('/') && !first.contains('.')) {
        commands::complain("there is no verb " + first.toStdString() + ". See jollyrow --help.");
        return commands::kUsage;
    }
    return openWorkbench(argc, argv);
}
