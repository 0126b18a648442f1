// SPDX-License-Identifier: MIT
// Covered by tests/grid/tst_headings.cpp.
#include "grid/headings/heading_control.h"

namespace jollyrow {

HeadingState HeadingControl::state() const {
    HeadingState state;
    const ViewPlan& plan = context_.plan();
    const std::size_t count = plan.columns.size();
    state.sorts.resize(count);
    state.severalKeys = context_.design().sort.size() > 1;
    for (const ViewPlan::SortMark& mark : plan.sortMarks)
        for (std::size_t i = 0; i < count; ++i)
            if (plan.columns[i].field == mark.field) state.sorts[i] = {mark.rank, mark.direction};
    markFiltered(state);
    state.grouped.resize(count);
    for (const PlannedGroup& group : plan.grouping->groups)
        for (std::size_t i = 0; i < count; ++i)
            if (plan.columns[i].design.field == group.design.key.field) state.grouped[i] = true;
    if (hovered_) {
        state.hoveredColumn = hovered_->column;
        state.hoveredTier = hovered_->tier;
    }
    if (focus_ && context_.grid().hasFocus()) {
        state.focusedColumn = focus_->column;
        state.focusedTier = focus_->tier;
    }
    if (designedTier_) state.designTier = context_.tierOf(designedTier_->toStdString());
    return state;
}

void HeadingControl::markFiltered(HeadingState& state) const {
    const ViewPlan& plan = context_.plan();
    state.filtered.resize(plan.columns.size());
    const auto reads = [&](FieldIndex field) {
        return std::find(plan.filterMarks.begin(), plan.filterMarks.end(), field) != plan.filterMarks.end();
    };
    for (std::size_t i = 0; i < plan.columns.size(); ++i)
        state.filtered[i] = reads(plan.columns[i].field) || (plan.columns[i].label && reads(*plan.columns[i].label));
}

void HeadingControl::hover(const std::optional<HeadingHit>& hit) {
    const bool same = hit.has_value() == hovered_.has_value() &&
                      (!hit || (hit->column == hovered_->column && hit->tier == hovered_->tier));
    if (same) return;
    hovered_ = hit;
    context_.viewport().update(0, 0, body_.viewport().width(), body_.headerHeight());
}

DraggedHeading HeadingControl::dragged(const HeadingHit& hit) const {
    if (hit.tier) return {{}, context_.plannedTier(*hit.tier).design.name};
    const auto isDesigned = [&](const std::string& field) {
        return std::find(designed_.begin(), designed_.end(), QString::fromStdString(field)) != designed_.end();
    };
    const std::string field = context_.planned(*hit.column).design.field;
    if (designed_.size() <= 1 || !isDesigned(field)) return {{field}, {}};
    DraggedHeading all;
    for (const ColumnDesign& column : context_.design().columns)
        if (isDesigned(column.field)) all.fields.push_back(column.field);
    return all;
}

bool HeadingControl::setDesigned(const std::vector<QString>& fields, const std::optional<QString>& tier) {
    if (fields == designed_ && tier == designedTier_) return false;
    designed_ = fields;
    designedTier_ = tier;
    return true;
}

void HeadingControl::sortBy(int index, bool addKey) {
    const PlannedColumn& column = context_.planned(index);
    const std::string field = column.design.field;
    const Type type = column.format.type;
    const QString heading = QString::fromStdString(column.design.heading);
    if (type == Type::Binary || type == Type::NumberList)
        return context_.say(
            Grid::tr("%1 holds %2, which has no order.")
                .arg(heading, QString::fromUtf8(article(type).data(), static_cast<qsizetype>(article(type).size()))));
    Design design = context_.design();
    const auto known =
        std::find_if(design.sort.begin(), design.sort.end(), [&](const SortDesign& key) { return key.field == field; });
    const bool isKey = known != design.sort.end();
    bool still = true;
    if (!addKey && (design.sort.size() > 1 || !isKey)) {
        design.sort.assign(1, {field, Direction::Ascending, Empties::Last});
    } else if (!isKey) {
        design.sort.push_back({field, Direction::Ascending, Empties::Last});
    } else if (known->direction == Direction::Ascending) {
        known->direction = Direction::Descending;
    } else {
        design.sort.erase(known);
        still = false;
    }
    context_.changeDesign(std::move(design),
                          still ? Grid::tr("Sort by %1").arg(heading) : Grid::tr("Stop sorting by %1").arg(heading));
}

void HeadingControl::clickTier(int tier, HeadingHit::Part part) {
    const PlannedTier& clicked = context_.plannedTier(tier);
    if (part == HeadingHit::Part::Fold) return setFolded(clicked.design.name, !clicked.design.folded);
    const QString name = QString::fromStdString(clicked.design.name);
    chosen_.clear();
    for (int i = clicked.first; i < clicked.end && !context_.isDesigning(); ++i)
        chosen_.push_back(context_.planned(i).design.field);
    Q_EMIT context_.grid().tierClicked(name);
}

void HeadingControl::setFolded(const std::string& name, bool folded) {
    Design design = context_.design();
    TierDesign* tier = design.findTier(name);
    if (!tier) return;
    tier->folded = folded;
    const QString heading = QString::fromStdString(tier->heading);
    context_.changeDesign(std::move(design),
                          folded ? Grid::tr("Fold %1").arg(heading) : Grid::tr("Unfold %1").arg(heading));
}

void HeadingControl::hide(int column) {
    context_.changeColumn(context_.planned(column).design.field, Grid::tr("Hide %1"),
                          [](ColumnDesign& c) { c.shown = false; });
}

void HeadingControl::makeTier(const std::vector<std::string>& fields) {
    Design next = context_.design();
    const std::string made = jollyrow::makeTier(next, fields, Grid::tr("New heading").toStdString());
    if (made.empty()) return;
    context_.changeDesign(std::move(next),
                          Grid::tr("New heading over %1").arg(headingOfField(context_.design(), fields.front())));
    nameNew(QString::fromStdString(made));
}

void HeadingControl::nameNew(const QString& tier) {
    const auto index = context_.tierOf(tier.toStdString());
    if (!index) return;
    Q_EMIT context_.grid().tierClicked(tier);
    rename(HeadingHit{{}, *index, {}});
}

void HeadingControl::rename(const HeadingHit& hit) {
    delete nameEntry_;
    const QRect rect = hit.tier ? layout().tierRect(*hit.tier) : layout().columnText(*hit.column);
    const bool isTier = hit.tier.has_value();
    const std::string name =
        isTier ? context_.plannedTier(*hit.tier).design.name : context_.planned(*hit.column).design.field;
    nameEntry_ = new QLineEdit(&context_.viewport());
    nameEntry_->setObjectName(QStringLiteral("headingEntry"));
    nameEntry_->setAccessibleName(Grid::tr("Heading"));
    nameEntry_->setText(isTier ? headingOfTier(context_.design(), name) : headingOfField(context_.design(), name));
    nameEntry_->selectAll();
    const int width = std::max(rect.width(), 110);
    nameEntry_->setGeometry(
        QRect(std::min(rect.left(), body_.viewport().width() - width), rect.top(), width, std::max(24, rect.height())));
    nameEntry_->show();
    nameEntry_->setFocus();
    QObject::connect(nameEntry_, &QLineEdit::editingFinished, &context_.grid(), [this, name, isTier] {
        if (!nameEntry_) return;
        QLineEdit* closing = nameEntry_;
        nameEntry_ = nullptr;
        closing->hide();
        closing->deleteLater();
        context_.grid().setFocus();
        takeName(name, isTier, closing->text().trimmed());
    });
}

void HeadingControl::takeName(const std::string& name, bool isTier, const QString& text) {
    Design design = context_.design();
    if (!isTier) {
        ColumnDesign* column = design.column(name);
        if (!column) return;
        column->heading = text.toStdString();
        return context_.changeDesign(std::move(design), Grid::tr("Rename %1").arg(QString::fromStdString(name)));
    }
    TierDesign* tier = design.findTier(name);
    if (!tier || text.isEmpty()) return;
    const QString label = Grid::tr("Rename %1").arg(QString::fromStdString(tier->heading));
    tier->heading = text.toStdString();
    // A tier made by hand gets its name with its first heading.
    const bool isRenamed =
        QString::fromStdString(name).startsWith(Grid::tr("New heading")) && !design.findTier(text.toStdString());
    if (isRenamed) renameTier(design, name, text.toStdString());
    context_.changeDesign(std::move(design), label);
    if (isRenamed) Q_EMIT context_.grid().tierClicked(text);
}

}  // namespace jollyrow
