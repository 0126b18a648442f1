// SPDX-License-Identifier: MIT
// A form on the application's own objects: deliveries that come to the yard, edited in a grid. The harbour office, a
// service that takes its time, decides on each change: it accepts, or refuses with a reason that stands at the cell.
//
//   delivery_form
#include <core/sources/objects/object_source.h>
#include <grid/api/grid.h>
#include <grid/api/qt_members.h>

#include <QApplication>
#include <QLabel>
#include <QPushButton>
#include <QTimer>
#include <QVBoxLayout>
#include <QWidget>

using namespace jollyrow;

namespace {

struct Delivery {
    QString goods;
    int crates = 0;
    QDate day;
    bool isHeavy = false;
};

/// What the yard can take in a day; another firm's rule, asked for over the network in a real program.
QString whyNotTaken(const SaveRequest& request) {
    const auto day = request.values.find("day");
    if (const auto* date = day == request.values.end() ? nullptr : std::get_if<Date>(&day->second))
        if (QDate::fromJulianDay(date->days + objects::QDateWay::kEpoch).dayOfWeek() == Qt::Sunday)
            return "The quay is closed on Sundays.";
    const auto crates = request.values.find("crates");
    if (const auto* count = crates == request.values.end() ? nullptr : std::get_if<std::int64_t>(&crates->second))
        if (*count > 40) return "The crane takes 40 crates a day.";
    return {};
}

class DeliveryForm final : public QWidget {
  public:
    DeliveryForm() : arrived_("Mark as arrived") {
        deliveries_.field("goods", &Delivery::goods).required().atMost(40);
        deliveries_.field("crates", &Delivery::crates);
        deliveries_.field("day", &Delivery::day);
        deliveries_.field("heavy", &Delivery::isHeavy);
        deliveries_.computed("weight", [](const Delivery& it) { return it.crates * (it.isHeavy ? 48.0 : 12.5); });
        deliveries_.check([](const Delivery& it) { return it.crates < 1 ? "One crate at least." : ""; }, {"crates"});
        deliveries_.set({{"Varnish", 4, QDate(2026, 12, 3), false},
                         {"Manila rope", 12, QDate(2026, 12, 4), false},
                         {"Copper nails", 2, QDate(2026, 12, 4), true},
                         {"Mast track", 6, {}, false},
                         {"Lead ballast", 18, QDate(2026, 12, 10), true}});
        auto* layout = new QVBoxLayout(this);
        layout->addWidget(&grid_);
        layout->addWidget(&said_);
        layout->addWidget(&arrived_);
        // The answer comes later; until then the record says that it is being saved.
        grid_.extensions().setSaver([this](const std::vector<SaveRequest>& records, const SaveReply& reply) {
            QTimer::singleShot(400, this, [records, reply] {
                for (std::size_t i = 0; i < records.size(); ++i)
                    if (const QString why = whyNotTaken(records[i]); !why.isEmpty())
                        return reply.refuse(why, why.contains("crane") ? "crates" : "day", i);
                reply.store();  // into the objects
            });
        });
        connect(&grid_, &Grid::currentRecordChanged, this, [this](const Record& record) {
            const Delivery* delivery = record.isValid() ? deliveries_.of(record.key()) : nullptr;
            said_.setText(!delivery ? QString()
                                    : QStringLiteral("%1, %2 crates").arg(delivery->goods).arg(delivery->crates));
            arrived_.setEnabled(delivery != nullptr);
        });
        connect(&arrived_, &QPushButton::clicked, this, [this] {
            if (const auto id = deliveries_.idOf(grid_.selection().current().key())) deliveries_.remove(*id);
        });
    }
    Result<void> open() { return grid_.open(deliveries_); }
    Grid& grid() { return grid_; }

  private:
    ObjectSource<Delivery> deliveries_{"deliveries"};
    Grid grid_;
    QLabel said_;
    QPushButton arrived_;
};

/// For the build's own check: a change that is taken, one that is refused, pictured.
void check(DeliveryForm& form, const QString& picture) {
    Grid& grid = form.grid();
    grid.records().setValue(grid.recordAt(1), "crates", std::int64_t{14});
    grid.records().setValue(grid.recordAt(2), "day", Date{20'793});  // a Sunday
    grid.records().setValue(grid.recordAt(4), "crates", std::int64_t{60});
    grid.selection().setCurrentCell(4, 1);
    QTimer::singleShot(1500, &form, [&form, &grid, picture] {
        bool isRight = grid.records().unsaved() == 2 && grid.recordAt(1).text("crates") == "14";
        for (const auto& change : grid.records().changes())
            isRight = isRight && (change.message.contains("Sundays") || change.message.contains("crane"));
        QApplication::exit(isRight && form.grab().save(picture) ? 0 : 1);
    });
}

}  // namespace

int main(int argc, char** argv) {
    QApplication application(argc, argv);
    const QStringList arguments = application.arguments();
    DeliveryForm form;
    if (auto opened = form.open(); !opened) {
        qCritical("%s", opened.error().message.c_str());
        return 1;
    }
    form.resize(900, 420);
    form.show();
    if (arguments.value(1) == "--once") QTimer::singleShot(500, &form, [&] { check(form, arguments.value(2)); });
    return application.exec();
}
