// SPDX-License-Identifier: MIT
// A form with a grid: opens a design on a database, and a button acts on the selected record.
#include <grid/api/form.h>
#include <grid/api/grid.h>

#include <QApplication>
#include <QDialog>
#include <QMessageBox>
#include <QPushButton>
#include <QTimer>
#include <QVBoxLayout>

int main(int argc, char** argv) {
    QApplication application(argc, argv);
    const QStringList arguments = application.arguments();
    QDialog form;
    QVBoxLayout layout(&form);
    layout.setContentsMargins(0, 0, 0, 10);
    jollyrow::Form jobs;  // the grid, and above it what its design has: title, parameters, filters in words, Find
    jollyrow::Grid& grid = jobs.grid();
    QPushButton ring("Ring the owner");
    layout.addWidget(&jobs);
    layout.addWidget(&ring, 0, Qt::AlignHCenter);
    if (auto opened = jobs.open(arguments.value(1), arguments.value(2)); !opened) {
        qCritical("%s", opened.error().message.c_str());
        return 1;
    }
    QObject::connect(&ring, &QPushButton::clicked, &form, [&] {
        const jollyrow::Record job = grid.selection().current();
        if (job.isValid())
            QMessageBox::information(&form, "Ring", "About job " + job.text("number") + ": " + job.text("work"));
    });
    form.resize(1000, 600);
    form.show();
    if (arguments.value(3) == "--once")  // for the build's own check: picture and leave when the records are there
        QObject::connect(&grid, &jollyrow::Grid::loadEnded, &form, [&](const QString& error) {
            grid.selection().setCurrentCell(0, 1);
            QTimer::singleShot(200, &form, [&, error] {
                application.exit(error.isEmpty() && form.grab().save(arguments.value(4)) &&
                                         grid.selection().current().isValid()
                                     ? 0
                                     : 1);
            });
        });
    return application.exec();
}
