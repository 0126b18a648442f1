// SPDX-License-Identifier: MIT
// Covered by tests/design/banner_test.cpp.
#include "core/design/planned_banner.h"

#include <fmt/format.h>

#include <algorithm>

#include "core/design/condition.h"
#include "core/design/message_arguments.h"
#include "core/rules/syntax.h"

namespace jollyrow {
namespace {

class BannerPlanner {
  public:
    BannerPlanner(const Design& design, const TableSchema& schema, const Registered* registered,
                  const std::vector<PlannedColumn>& columns, std::vector<Finding>& findings)
        : design_(design),
          schema_(schema),
          columns_(columns),
          vocabulary_(vocabularyOf(design, registered)),
          findings_(findings) {}

    std::optional<PlannedBanner> plan(const BannerDesign& banner) {
        PlannedBanner planned;
        planned.design = banner;
        BindOptions options;
        options.expected = RuleKind::Boolean;
        auto where = compileRule(banner.where, schema_, vocabulary_, options);
        if (!where) return say(banner, where.error().message);
        planned.where = std::move(*where);
        if (!banner.caption.empty()) {
            TextFormat format;
            format.spec.style = FormatStyle::Message;
            format.spec.pattern = banner.caption;
            format.locale = design_.locale;
            auto message = formatterFor(format, schema_, design_);
            if (!message) return say(banner, message.error().message);
            planned.caption = std::move(*message);
        }
        planned.column = columnOf(planned);
        return planned;
    }

  private:
    std::nullopt_t say(const BannerDesign& banner, const std::string& why) {
        findings_.push_back(
            {Severity::Warning, "banners", fmt::format("The banner where {} is left out. {}", banner.where, why), {}});
        return std::nullopt;
    }

    /// Where the caption comes from, else the first column of texts, else the first.
    int columnOf(const PlannedBanner& planned) const {
        const auto find = [&](const auto& meant) {
            const auto at = std::find_if(columns_.begin(), columns_.end(), meant);
            return at == columns_.end() ? -1 : static_cast<int>(at - columns_.begin());
        };
        if (planned.caption)
            for (const FieldIndex field : planned.caption->fieldsRead())
                if (const int at = find([&](const PlannedColumn& c) { return c.field == field; }); at >= 0) return at;
        const int texts =
            find([&](const PlannedColumn& c) { return schema_.field(c.label.value_or(c.field)).type == Type::Text; });
        return texts >= 0 ? texts : columns_.empty() ? -1 : 0;
    }

    const Design& design_;
    const TableSchema& schema_;
    const std::vector<PlannedColumn>& columns_;
    RuleVocabulary vocabulary_;
    std::vector<Finding>& findings_;
};

}  // namespace

std::vector<PlannedBanner> plannedBanners(const Design& design, const TableSchema& schema, const Registered* registered,
                                          const std::vector<PlannedColumn>& columns, std::vector<Finding>& findings) {
    std::vector<PlannedBanner> planned;
    if (design.banners.empty()) return planned;
    BannerPlanner planner(design, schema, registered, columns, findings);
    for (const BannerDesign& banner : design.banners)
        if (planned.size() < BannerDesign::kMost)
            if (auto one = planner.plan(banner)) planned.push_back(std::move(*one));
    return planned;
}

std::vector<std::string> fieldNamesOf(const std::vector<BannerDesign>& banners) {
    std::vector<std::string> names;
    for (const BannerDesign& banner : banners) {
        const auto read = columnsNamed(banner.where);
        names.insert(names.end(), read.begin(), read.end());
        forEachArgument(banner.caption, [&](const std::string& name, bool) { names.push_back(name); });
    }
    return names;
}

BannerReader::BannerReader(const Snapshot& snapshot, const ViewPlan& plan)
    : snapshot_(snapshot), plan_(plan), readers_(plan.banners.size()) {}

BannerReader::~BannerReader() = default;

const PlannedBanner* BannerReader::of(SourceRow row) const {
    // By its condition: the snapshot leaves out those that a parameter lifts, and a newer plan has others.
    for (const Snapshot::Banners& banners : snapshot_.banners) {
        if (!banners.set->contains(raw(row))) continue;
        for (const PlannedBanner& banner : plan_.banners)
            if (banner.design.where == banners.rule) return &banner;
    }
    return nullptr;
}

void BannerReader::appendCaption(SourceRow row, const PlannedBanner& banner, std::string& out) {
    if (banner.caption) {
        for (const FieldIndex field : banner.caption->fieldsRead())
            if (!snapshot_.table->column(field)) return;  // to come
        return banner.caption->appendMessage(out, [&](FieldIndex field) { return snapshot_.value(row, field); });
    }
    if (banner.column < 0) return;
    auto& reader = readers_[static_cast<std::size_t>(&banner - plan_.banners.data())];
    if (!reader)
        reader = std::make_unique<CellReader>(snapshot_, plan_.columns[static_cast<std::size_t>(banner.column)]);
    reader->read(row, cell_);
    out += cell_.text;
}

}  // namespace jollyrow
