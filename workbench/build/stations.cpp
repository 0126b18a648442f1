// SPDX-License-Identifier: MIT
// Covered by tests/workbench/tst_workbench.cpp and tst_groups_workbench.cpp.
#include "workbench/build/stations.h"

#include "core/base/source_address.h"
#include "core/design/condition.h"
#include "core/design/grouping.h"
#include "core/design/make_design.h"
#include "core/session/session.h"
#include "grid/headings/heading_landing.h"
#include "grid/paint/grouped.h"
#include "workbench/build/build_page.h"
#include "workbench/popovers/direction_words.h"

namespace jollyrow {
namespace {

QString headingIn(const Design& design, const QString& field) { return headingOfField(design, field.toStdString()); }

Station sourceStation(Grid& grid, const Design& design, const QString& databasePath) {
    const Snapshot& snapshot = *grid.snapshot();
    Station source;
    source.stage = Stage::Source;
    const QString file = QString::fromStdString(sourceNameOf(databasePath.toStdString()));
    source.sentence = design.source.query.empty()
                          ? BuildPage::tr("%1 of %2").arg(QString::fromStdString(design.source.table), file)
                          : BuildPage::tr("a SELECT on %1").arg(file);
    source.rowsOut =
        grid.isLoading() ? std::max(grid.session().progress().rows, snapshot.source.rowsOut) : snapshot.source.rowsOut;
    source.milliseconds = snapshot.source.milliseconds;
    return source;
}

Station filterStation(Grid& grid, const Design& design) {
    const Snapshot& snapshot = *grid.snapshot();
    const TableSchema& schema = grid.session().schema();
    Station filter;
    filter.stage = Stage::Filter;
    filter.rowsOut = snapshot.filter.rowsOut;
    filter.milliseconds = snapshot.filter.milliseconds;
    filter.isBypassed = grid.session().view().isBypassed(Stage::Filter);
    for (const FilterDesign& part : design.filter) {
        if (!part.on) continue;
        const Condition condition = conditionFrom(part.rule, schema, design);
        filter.sentence += (filter.sentence.isEmpty() ? QString() : BuildPage::tr(", ")) +
                           QString::fromStdString(sentenceOf(condition, schema, design));
        const QString heading =
            headingIn(design, QString::fromStdString(part.field.empty() ? condition.field : part.field));
        filter.words.push_back(heading);
        filter.fields.push_back(QString::fromStdString(part.field.empty() ? condition.field : part.field));
    }
    filter.isIdle = filter.sentence.isEmpty();
    if (filter.isIdle) filter.sentence = BuildPage::tr("every row");
    return filter;
}

Station sortStation(Grid& grid, const Design& design) {
    const Snapshot& snapshot = *grid.snapshot();
    Station sort;
    sort.stage = Stage::Sort;
    sort.isBypassed = grid.session().view().isBypassed(Stage::Sort);
    sort.rowsOut = snapshot.sort.rowsOut;
    sort.milliseconds = snapshot.sort.milliseconds;
    sort.isIdle = design.sort.empty();
    sort.sentence = sort.isIdle ? BuildPage::tr("in the order of the database") : BuildPage::tr("by ");
    for (std::size_t i = 0; i < design.sort.size(); ++i) {
        const SortDesign& key = design.sort[i];
        const QString heading = !key.by.empty()      ? QString::fromStdString(key.by)
                                : !key.title.empty() ? QString::fromStdString(key.title)
                                : !key.rule.empty()  ? QString::fromStdString(key.rule)
                                                     : headingIn(design, QString::fromStdString(key.field));
        sort.sentence += (i == 0 ? QString() : BuildPage::tr(", then ")) + heading +
                         (design.sort[i].direction == Direction::Descending ? BuildPage::tr(" downwards") : QString());
        sort.words.push_back(heading);
        sort.fields.push_back(QString::fromStdString(design.sort[i].field));
    }
    return sort;
}

/// One behind which all records shown still stand.
Station begun(Grid& grid, Stage stage, const StageReport& report) {
    Station station;
    station.stage = stage;
    station.rowsOut = grid.snapshot()->recordCount();
    station.milliseconds = report.milliseconds;
    station.isBypassed = grid.session().view().isBypassed(stage);
    return station;
}

Station groupStation(Grid& grid, const Design& design) {
    const Snapshot& snapshot = *grid.snapshot();
    Station group = begun(grid, Stage::Group, snapshot.group);
    group.isIdle = design.groups.empty();
    if (group.isIdle) group.sentence = BuildPage::tr("no groups");
    for (std::size_t i = 0; i < design.groups.size(); ++i) {
        const GroupDesign& level = design.groups[i];
        QString heading = !level.key.title.empty()  ? QString::fromStdString(level.key.title)
                          : !level.key.rule.empty() ? QString::fromStdString(level.key.rule)
                                                    : headingIn(design, QString::fromStdString(level.key.field));
        if (!level.key.field.empty() && !design.column(level.key.field))
            heading = QString::fromStdString(headingFor(level.key.field.substr(level.key.field.rfind('.') + 1), false));
        group.words.push_back(heading);
        group.fields.push_back(QString::fromStdString(level.key.field));
        if (level.by != GroupBy::EachValue)
            heading = BuildPage::tr("%1 of %2").arg(QString::fromStdString(jollyrow::words(level.by)), heading);
        group.sentence += (i == 0 ? QString() : BuildPage::tr(", then ")) + heading;
    }
    if (snapshot.grouped) {
        const auto count = static_cast<std::int64_t>(snapshot.grouped->tree().nodes.size());
        group.passesOn =
            count == 1 ? BuildPage::tr("1 group") : BuildPage::tr("%1 groups").arg(jollyrow::grouped(count));
    }
    return group;
}

Station summariesStation(Grid& grid, const Design& design) {
    const Snapshot& snapshot = *grid.snapshot();
    Station summaries = begun(grid, Stage::Summaries, snapshot.summaries);
    summaries.isIdle = design.summaries.empty();
    if (summaries.isIdle) summaries.sentence = BuildPage::tr("no figures");
    QStringList figures;
    for (const PlannedSummary& planned : grid.session().plan().grouping->summaries) {
        figures << QString::fromStdString(planned.words);
        summaries.words.push_back(headingIn(design, QString::fromStdString(planned.design.column)));
        summaries.fields.push_back(QString::fromStdString(planned.design.column));
    }
    if (!figures.empty()) summaries.sentence = figures.join(QStringLiteral(" · "));
    return summaries;
}

}  // namespace

std::vector<Station> stationsOf(Grid& grid, const Design& design, const QString& databasePath) {
    return {sourceStation(grid, design, databasePath), filterStation(grid, design), sortStation(grid, design),
            groupStation(grid, design), summariesStation(grid, design)};
}

}  // namespace jollyrow
