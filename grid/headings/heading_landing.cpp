// SPDX-License-Identifier: MIT
#include "grid/headings/heading_landing.h"

#include <QObject>

namespace jollyrow {
namespace {

bool inPath(const Design& design, const std::string& tier, const std::string& outer) {
    if (outer.empty()) return true;
    const auto path = tierPath(design, tier);
    return std::find(path.begin(), path.end(), outer) != path.end();
}

/// The column behind `field` and what stands beneath it, when it is in the tier; "" at the tier's end.
std::string fieldBehind(const Design& design, const std::string& field, const std::string& tier) {
    auto at = std::find_if(design.columns.begin(), design.columns.end(),
                           [&](const ColumnDesign& c) { return c.field == field; });
    if (at == design.columns.end()) return {};
    for (++at; at != design.columns.end() && !at->under.empty();) ++at;
    return at != design.columns.end() && inPath(design, at->tier, tier) ? at->field : std::string();
}

class Lander {
  public:
    Lander(const Design& design, const ViewPlan& plan, const HeadingLayout& layout, const DraggedHeading& dragged,
           Arranging arranging)
        : design_(design), plan_(plan), layout_(layout), dragged_(dragged), arranging_(arranging) {}

    HeadingLanding onColumn(int index, HeadingHit::Part part, int x) const {
        const PlannedColumn& anchor = plan_.columns[static_cast<std::size_t>(index)];
        const std::string field = anchor.design.field;
        if (isDragged(field)) return {};
        if (arranging_ == Arranging::UserOnly || !anchor.design.under.empty())
            part = halfOf(layout_.columnRect(index), x);
        const std::string& top = anchor.design.under.empty() ? field : anchor.design.under;
        switch (part) {
            case HeadingHit::Part::LeftEdge: return beside(anchor.design.tier, top, layout_.columnRect(index), false);
            case HeadingHit::Part::RightEdge:
                return beside(anchor.design.tier, fieldBehind(design_, top, anchor.design.tier),
                              layout_.columnRect(index), true);
            case HeadingHit::Part::Lower:
                if (dragged_.tier.empty() && dragged_.fields.size() == 1)
                    return {HeadingLanding::What::Beneath,
                            {},
                            field,
                            {LandingMark::Kind::Beneath, layout_.columnText(index),
                             QObject::tr("beneath %1").arg(QString::fromStdString(anchor.design.heading))}};
                [[fallthrough]];
            case HeadingHit::Part::Fold:
            case HeadingHit::Part::Body:
                return {HeadingLanding::What::MakeTier,
                        {},
                        field,
                        {LandingMark::Kind::Around, layout_.columnRect(index), QObject::tr("a new heading over both")}};
        }
        return {};
    }

    HeadingLanding onTier(int index, HeadingHit::Part part, int x) const {
        const PlannedTier& tier = plan_.tiers[static_cast<std::size_t>(index)];
        const std::string& name = tier.design.name;
        if (!dragged_.tier.empty() && inPath(design_, name, dragged_.tier)) return {};
        if (arranging_ == Arranging::UserOnly) part = halfOf(layout_.tierRect(index), x);
        const auto fields = fieldsUnder(design_, name);
        switch (part) {
            case HeadingHit::Part::LeftEdge:
                return beside(tier.design.parent, fields.front(), layout_.tierRect(index), false);
            case HeadingHit::Part::RightEdge:
                return beside(tier.design.parent, fieldBehind(design_, fields.back(), tier.design.parent),
                              layout_.tierRect(index), true);
            case HeadingHit::Part::Lower:
            case HeadingHit::Part::Fold:
            case HeadingHit::Part::Body: break;
        }
        const bool isThere = dragged_.tier.empty()
                                 ? std::all_of(dragged_.fields.begin(), dragged_.fields.end(),
                                               [&](const std::string& f) {
                                                   return design_.column(f) && design_.column(f)->tier == name;
                                               })
                                 : design_.findTier(dragged_.tier)->parent == name;
        if (isThere) return {};
        QRect around = layout_.tierRect(index);
        around.setBottom(layout_.height() - 1);
        return {HeadingLanding::What::Move,
                {name, {}},
                {},
                {LandingMark::Kind::Around, around,
                 QObject::tr("under %1").arg(QString::fromStdString(tier.design.heading))}};
    }

    HeadingLanding beside(const std::string& tier, const std::string& before, const QRect& rect, bool right) const {
        const std::string own = dragged_.tier.empty() ? design_.column(dragged_.fields.front())->tier
                                                      : design_.findTier(dragged_.tier)->parent;
        if (arranging_ == Arranging::UserOnly && own != tier) return {};
        HeadingLanding landing{HeadingLanding::What::Move, {tier, before}, {}, {}};
        Design tried = design_;
        carryOut(tried, dragged_, landing);
        if (tried == design_) return {};
        landing.mark.kind = LandingMark::Kind::Between;
        landing.mark.rect = QRect(right ? rect.right() + 1 : rect.left(), rect.top(), 1, rect.height());
        if (own != tier)
            landing.mark.words = tier.empty() ? QObject::tr("out of %1").arg(headingOfTier(design_, own))
                                              : QObject::tr("under %1").arg(headingOfTier(design_, tier));
        return landing;
    }

  private:
    static HeadingHit::Part halfOf(const QRect& rect, int x) {
        return x < rect.center().x() ? HeadingHit::Part::LeftEdge : HeadingHit::Part::RightEdge;
    }
    bool isDragged(const std::string& field) const {
        if (!dragged_.tier.empty()) return inPath(design_, design_.column(field)->tier, dragged_.tier);
        return std::find(dragged_.fields.begin(), dragged_.fields.end(), field) != dragged_.fields.end();
    }
    const Design& design_;
    const ViewPlan& plan_;
    const HeadingLayout& layout_;
    const DraggedHeading& dragged_;
    Arranging arranging_;
};

}  // namespace

QString headingOfField(const Design& design, const std::string& field) {
    return QString::fromStdString(design.headingOf(field));
}

QString headingOfTier(const Design& design, const std::string& tier) {
    const TierDesign* found = design.findTier(tier);
    return QString::fromStdString(found ? found->heading : tier);
}

HeadingLanding landingAt(const Design& design, const ViewPlan& plan, const HeadingLayout& layout,
                         const ColumnLayout& columns, const DraggedHeading& dragged, QPoint position,
                         Arranging arranging) {
    const bool nothing = dragged.tier.empty() ? dragged.fields.empty() || !design.column(dragged.fields.front())
                                              : !design.findTier(dragged.tier);
    if (position.y() < 0 || nothing || columns.count() == 0) return {};
    const Lander lander(design, plan, layout, dragged, arranging);
    // Over the records it lands beside the column there.
    const bool below = position.y() >= layout.height();
    const QPoint at(position.x(), below ? layout.height() - 1 : position.y());
    const auto hit = layout.hitAt(at);
    if (!hit) {
        if (position.x() < columns.placeX(0, 0)) return {};
        const int last = columns.count() - 1;
        return lander.beside({}, {}, layout.columnRect(last), true);
    }
    if (hit->tier) return lander.onTier(*hit->tier, hit->part, at.x());
    auto part = hit->part;
    if (below && (part == HeadingHit::Part::Body || part == HeadingHit::Part::Lower)) {
        const QRect rect = layout.columnRect(*hit->column);
        part = at.x() < rect.center().x() ? HeadingHit::Part::LeftEdge : HeadingHit::Part::RightEdge;
    }
    return lander.onColumn(*hit->column, part, at.x());
}

QString carryOut(Design& design, const DraggedHeading& dragged, const HeadingLanding& landing, QString* madeTier) {
    const Design before = design;
    const bool isTier = !dragged.tier.empty();
    const QString what = isTier ? headingOfTier(design, dragged.tier) : headingOfField(design, dragged.fields.front());
    const std::string own =
        isTier ? design.findTier(dragged.tier)->parent : design.column(dragged.fields.front())->tier;
    QString label;
    switch (landing.what) {
        case HeadingLanding::What::Nothing: return {};
        case HeadingLanding::What::Move:
            isTier ? moveTier(design, dragged.tier, landing.to) : moveColumns(design, dragged.fields, landing.to);
            label = landing.to.tier == own ? QObject::tr("Move %1").arg(what)
                    : landing.to.tier.empty()
                        ? QObject::tr("Move %1 out of %2").arg(what, headingOfTier(before, own))
                        : QObject::tr("Move %1 under %2").arg(what, headingOfTier(before, landing.to.tier));
            break;
        case HeadingLanding::What::MakeTier: {
            std::vector<std::string> fields{landing.target};
            const auto moved = isTier ? fieldsUnder(design, dragged.tier) : dragged.fields;
            fields.insert(fields.end(), moved.begin(), moved.end());
            const std::string made = makeTier(design, fields, QObject::tr("New heading").toStdString());
            if (madeTier) *madeTier = QString::fromStdString(made);
            label = QObject::tr("New heading over %1 and %2").arg(headingOfField(before, landing.target), what);
            break;
        }
        case HeadingLanding::What::Beneath:
            putUnder(design, dragged.fields.front(), landing.target);
            label = QObject::tr("Put %1 beneath %2").arg(what, headingOfField(before, landing.target));
            break;
    }
    return design == before ? QString() : label;
}

}  // namespace jollyrow
