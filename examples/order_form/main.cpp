// SPDX-License-Identifier: MIT
// A form of two grids and a sheet: the yard's jobs, the lines of the current one, and its fields. A job and its lines
// are saved in one transaction: all of it or nothing.
//
//   order_form jobs.jrow lines.jrow kelpie-quay.db
//
// The design of the lines has a parameter `job`, and a condition "job = :job" that the form sets.
#include <grid/api/grid.h>
#include <grid/sheet/record_sheet.h>

#include <QApplication>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QTimer>
#include <QVBoxLayout>
#include <QWidget>

using jollyrow::Grid;
using jollyrow::Record;
using jollyrow::Value;

namespace {

/// The number that a new record of a grid may have: one more than the largest there is.
std::int64_t nextNumber(const Grid& grid, const char* field) {
    std::int64_t largest = 0;
    for (std::int64_t line = 0; line < grid.lineCount(); ++line)
        if (const Value value = grid.recordAt(line).value(field);
            const auto* number = std::get_if<std::int64_t>(&value))
            largest = std::max(largest, *number);
    return largest + 1;
}

class OrderForm final : public QWidget {
  public:
    OrderForm() : sheet_(jobs_), addJob_("New job"), addLine_("New line"), save_("Save job and lines"), undo_("Undo") {
        auto* left = new QVBoxLayout;
        left->addWidget(&jobs_, 3);
        left->addWidget(&title_);
        left->addWidget(&lines_, 2);
        auto* foot = new QHBoxLayout;
        for (QPushButton* button : {&addJob_, &addLine_, &undo_}) foot->addWidget(button);
        foot->addWidget(&said_, 1);
        foot->addWidget(&save_);
        left->addLayout(foot);
        auto* all = new QHBoxLayout(this);
        all->addLayout(left, 1);
        all->addWidget(&sheet_);
        connect(&jobs_, &Grid::currentRecordChanged, this, [this](const Record& job) {
            if (lines_.records().unsaved() != 0) save();  // lines belong to the job that is left
            showLinesOf(job);
        });
        connect(&addJob_, &QPushButton::clicked, this, [this] { addJob(); });
        connect(&addLine_, &QPushButton::clicked, this, [this] { addLine(); });
        connect(&save_, &QPushButton::clicked, this, [this] { save(); });
        connect(&undo_, &QPushButton::clicked, this, [this] { lines_.records().undo() || jobs_.records().undo(); });
        for (Grid* grid : {&jobs_, &lines_}) {
            connect(grid, &Grid::snapshotChanged, this, [this] { countUnsaved(); });
            connect(grid, &Grid::failed, this, [this](const QString& why) { said_.setText(why); });
        }
    }

    jollyrow::Result<void> open(const QString& jobs, const QString& lines, const QString& database) {
        if (auto opened = jobs_.open(jobs, database); !opened) return opened;
        if (auto opened = lines_.open(lines, database); !opened) return opened;
        // Nothing goes to the database by itself: a job is nothing without its lines.
        for (Grid* grid : {&jobs_, &lines_})
            grid->changeDesign([](jollyrow::Design& design) { design.grid.saving = jollyrow::Saving::Together; });
        return {};
    }

    Record addJob() {
        const auto job =
            jobs_.records().insert({{"number", nextNumber(jobs_, "number")}, {"status", std::string("Quoted")}});
        if (!job) return said_.setText(QString::fromStdString(job.error().message)), Record();
        jobs_.selection().show(*job);
        return *job;
    }

    Record addLine() {
        const Value number = jobs_.selection().current().value("number");
        if (!std::holds_alternative<std::int64_t>(number)) return {};
        const auto line = lines_.records().insert({{"job", number}, {"position", nextNumber(lines_, "position")}});
        if (!line) return said_.setText(QString::fromStdString(line.error().message)), Record();
        lines_.selection().show(*line);
        return *line;
    }

    bool save() {
        const auto saved = jollyrow::GridRecords::saveTogether({&jobs_, &lines_});
        said_.setText(!saved        ? QString::fromStdString(saved.error().message)
                      : *saved == 0 ? QStringLiteral("There is nothing to save.")
                                    : QString());
        return saved.ok();
    }

    Grid& jobs() { return jobs_; }
    Grid& lines() { return lines_; }

  private:
    void showLinesOf(const Record& job) {
        lines_.setParameter("job", job.isValid() ? job.value("number") : Value());
        title_.setText(job.isValid() ? "Lines of job " + job.text("number") : QString());
        addLine_.setEnabled(job.isValid());
    }
    void countUnsaved() {
        const std::size_t unsaved = jobs_.records().changes().size() + lines_.records().changes().size();
        save_.setEnabled(unsaved != 0);
        undo_.setEnabled(jobs_.records().canUndo() || lines_.records().canUndo());
    }

    Grid jobs_, lines_;
    jollyrow::RecordSheet sheet_;
    QPushButton addJob_, addLine_, save_, undo_;
    QLabel title_, said_;
};

/// For the build's own check: a new job with a line of its own, saved, pictured, gone again.
class Check final : public QObject {
  public:
    Check(OrderForm& form, const QString& picture) : form_(form), picture_(picture) {
        timer_.setInterval(50);
        connect(&timer_, &QTimer::timeout, this, [this] { step(); });
        timer_.start();
    }

  private:
    void step() {
        if (++waited_ > 400) return QApplication::exit(1);
        if (form_.jobs().isLoading() || form_.lines().isLoading() || form_.jobs().lineCount() == 0) return;
        const bool isShown =
            job_.isValid() && form_.jobs().selection().current().value("number") == job_.value("number");
        if (!job_.isValid()) {
            job_ = form_.addJob();
        } else if (!line_.isValid()) {
            if (!isShown) return;  // a moment later it is among the lines
            const Value vessel = form_.jobs().recordAt(0).value("vessel");
            form_.jobs().records().setValue(job_, "vessel", vessel);
            form_.jobs().records().setValue(job_, "work", std::string("rehang the rudder"));
            form_.jobs().records().setValue(job_, "booked_on", jollyrow::Date{20'600});
            line_ = form_.addLine();
            form_.lines().records().setValue(line_, "kind", std::string("labour"));
            form_.lines().records().setValue(line_, "what", std::string("two hands, one tide"));
            form_.lines().records().setValue(line_, "quantity", jollyrow::Decimal{600, 2});
            form_.lines().records().setValue(line_, "price", jollyrow::Decimal{5200, 2});
            if (!line_.isValid() || !form_.save()) return QApplication::exit(2);
        } else if (form_.jobs().records().unsaved() + form_.lines().records().unsaved() == 0 &&
                   form_.lines().lineCount() == 1) {
            timer_.stop();
            const bool isRight = form_.lines().recordAt(0).text("what") == "two hands, one tide" && isShown;
            QTimer::singleShot(300, this,
                               [this, isRight] { QApplication::exit(isRight && form_.grab().save(picture_) ? 0 : 3); });
        }
    }
    OrderForm& form_;
    QString picture_;
    QTimer timer_;
    Record job_, line_;
    int waited_ = 0;
};

}  // namespace

int main(int argc, char** argv) {
    QApplication application(argc, argv);
    const QStringList arguments = application.arguments();
    OrderForm form;
    form.setWindowTitle("Jobs and their lines");
    if (auto opened = form.open(arguments.value(1), arguments.value(2), arguments.value(3)); !opened) {
        qCritical("%s", opened.error().message.c_str());
        return 1;
    }
    form.resize(1280, 800);
    form.show();
    if (arguments.value(4) == "--once") new Check(form, arguments.value(5));
    return application.exec();
}
