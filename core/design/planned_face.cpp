// SPDX-License-Identifier: MIT
#include "core/design/planned_face.h"

#include <fmt/format.h>

#include <algorithm>

#include "core/base/near_name.h"
#include "core/design/condition.h"
#include "core/design/make_design.h"
#include "core/design/message_arguments.h"
#include "core/design/plan.h"
#include "core/rules/syntax.h"

namespace jollyrow {
namespace {

/// Plans the parts of one face, parents before their parts.
class FacePlanner {
  public:
    FacePlanner(const Design& design, const FaceDesign& face, const ColumnDesign& column, const TableSchema& schema,
                const Registered* registered, std::vector<Finding>& findings)
        : design_(design),
          column_(column),
          schema_(schema),
          vocabulary_(vocabularyOf(design, registered)),
          findings_(findings),
          where_("faces/" + face.name) {
        planned_.name = face.name;
        planned_.own = *schema.find(column.field);
    }

    std::shared_ptr<const PlannedFace> run(const FacePart& root) {
        add(root, {});
        if (planned_.parts.empty()) return nullptr;
        return std::make_shared<const PlannedFace>(std::move(planned_));
    }

  private:
    void say(const std::string& what) {
        Finding finding{Severity::Warning, where_, fmt::format("Of the face of {}, {}", column_.heading, what), {}};
        if (std::none_of(findings_.begin(), findings_.end(),
                         [&](const Finding& f) { return f.message == finding.message; }))
            findings_.push_back(std::move(finding));
    }

    void reads(FieldIndex field) {
        if (std::find(planned_.fields.begin(), planned_.fields.end(), field) == planned_.fields.end())
            planned_.fields.push_back(field);
    }

    std::optional<FieldIndex> find(const std::string& name) {
        const auto field = schema_.find(name.empty() ? column_.field : name);
        if (!field) {
            std::vector<std::string> names;
            for (const FieldSchema& known : schema_.fields) names.push_back(known.name);
            const auto near = nearestName(name, names);
            say(fmt::format("a part is left out: {} has no column {}.{}", schema_.name, name,
                            near ? fmt::format(" It may be called {} now.", *near) : ""));
        }
        return field;
    }

    std::shared_ptr<const Formatter> message(const std::string& pattern) {
        TextFormat format;
        format.spec.style = FormatStyle::Message;
        format.spec.pattern = pattern;
        format.locale = design_.locale;
        auto made = formatterFor(format, schema_, design_);
        if (!made) {
            say(fmt::format("the text \"{}\" cannot be used. {}", pattern, made.error().message));
            return nullptr;
        }
        for (const FieldIndex field : (*made)->fieldsRead()) reads(field);
        return *made;
    }

    std::shared_ptr<const Program> condition(const std::string& rule, const std::string& field) {
        auto made = partCondition(rule, field.empty() ? column_.field : field, schema_, vocabulary_);
        if (!made) {
            say(fmt::format("the condition {} cannot be used. {}", rule, made.error().message));
            return nullptr;
        }
        for (const FieldIndex read : (*made)->fields) reads(read);
        return *made;
    }

    void add(const FacePart& part, std::vector<std::size_t> path) {
        PlannedPart planned;
        planned.design = part;
        planned.design.parts.clear();
        planned.path = path;
        if (!content(planned) || !conditions(planned)) return;
        const std::size_t index = planned_.parts.size();
        planned_.parts.push_back(std::move(planned));
        for (std::size_t i = 0; i < part.parts.size() && holdsParts(part.kind); ++i) {
            path.push_back(i);
            add(part.parts[i], path);
            path.pop_back();
        }
        planned_.parts[index].end = planned_.parts.size();
    }

    bool content(PlannedPart& planned) {
        const FacePart& part = planned.design;
        switch (part.kind) {
            case FacePartKind::Text:
            case FacePartKind::Link:
            case FacePartKind::Button:
                if (part.text.empty()) return fieldOf(planned);
                planned.formatter = message(part.text);
                return planned.formatter != nullptr;
            case FacePartKind::Field:
            case FacePartKind::Rating:
            case FacePartKind::Swatch:
            case FacePartKind::Picture:
            case FacePartKind::Trend: return fieldOf(planned);
            case FacePartKind::Bar: return bar(planned);
            case FacePartKind::Row:
            case FacePartKind::Column:
            case FacePartKind::Stack:
            case FacePartKind::Mark:
            case FacePartKind::Spacer: return true;
        }
        return true;
    }

    bool fieldOf(PlannedPart& planned) {
        const auto field = find(planned.design.field);
        if (!field) return false;
        const FieldSchema& known = schema_.field(*field);
        const bool isNumberList = known.type == Type::NumberList || known.type == Type::Text || isNumber(known.type);
        const bool isPicture = known.type == Type::Binary || known.type == Type::Text;
        if ((planned.design.kind == FacePartKind::Picture && !isPicture) ||
            (planned.design.kind == FacePartKind::Rating && !isNumber(known.type)) ||
            (planned.design.kind == FacePartKind::Trend && !isNumberList))
            return refuse(known);
        planned.field = *field;
        reads(*field);
        const auto link = foreignKeyOf(schema_, known.name);
        planned.isRecorded = planned.design.kind == FacePartKind::Trend && isNumber(known.type);
        if (link && planned.design.kind != FacePartKind::Rating && !planned.isRecorded)
            return label(planned, known, *link);
        planned.formatter = formatterOf(known, planned.design.format);
        return true;
    }

    /// Written as its own column is, unless the part has a format.
    std::shared_ptr<const Formatter> formatterOf(const FieldSchema& field, const FormatSpec& own) {
        const ColumnDesign* column = design_.column(field.name);
        TextFormat format = defaultFormat(field, field.use == Use::LookUp);
        if (own != FormatSpec{})
            format.spec = own;
        else if (column && column->format.style != FormatStyle::Message)
            format.spec = column->format;
        format.locale = design_.locale;
        auto made = formatterFor(format, schema_, design_);
        if (made) return *made;
        say(fmt::format("the format of {} cannot be used. {}", field.name, made.error().message));
        return Formatter::automatic(defaultFormat(field, false));
    }

    /// A look-up reads as the label of the record that it points to.
    bool label(PlannedPart& planned, const FieldSchema& known, std::size_t link) {
        const ColumnDesign* column = design_.column(known.name);
        const std::string& label = column && !column->label.empty() ? column->label : schema_.foreignKeys[link].label;
        if (const auto shown = label.empty() ? std::nullopt : schema_.find(known.name + "." + label)) {
            planned.field = *shown;
            reads(*shown);
        }
        planned.formatter = Formatter::automatic(defaultFormat(schema_.field(*planned.field), true));
        return true;
    }

    bool refuse(const FieldSchema& known) {
        say(fmt::format("a part is left out: {} holds {}, which cannot be shown so.", known.name, article(known.type)));
        return false;
    }

    bool bar(PlannedPart& planned) {
        const BarDesign& bar = planned.design.bar;
        std::vector<std::string> names = bar.fields;
        if (names.empty()) names.push_back(planned.design.field);
        for (const std::string& name : names) {
            const auto field = find(name);
            if (!field) continue;
            const bool isList = schema_.field(*field).type == Type::NumberList && names.size() == 1;
            if (!isNumber(schema_.field(*field).type) && !isList) {
                refuse(schema_.field(*field));
                continue;
            }
            planned.isList = isList;
            planned.fields.push_back(*field);
            // What the column is called names the whole bar.
            const std::string& known = schema_.field(*field).name;
            planned.names.push_back(names.size() > 1 && known == column_.field ? headingFor(known, false)
                                                                               : design_.headingOf(known));
            reads(*field);
        }
        if (planned.fields.empty()) return false;
        for (std::size_t i = 0; i < planned.fields.size() && planned.fields.size() > 1; ++i)
            planned.formatters.push_back(formatterOf(schema_.field(planned.fields[i]), {}));
        if (planned.fields.size() == 1) {
            const std::string own = std::exchange(planned.design.field, schema_.field(planned.fields.front()).name);
            const bool done = fieldOf(planned);
            planned.design.field = own;
            if (!done) return false;
        }
        // Fixed ends need the others for the room of the numbers.
        if (!bar.shares) planned.extent = ExtentTerm{planned.fields, bar.ends == BarEnds::Filtered};
        return true;
    }

    bool conditions(PlannedPart& planned) {
        const FacePart& part = planned.design;
        if (!part.toolTip.empty()) planned.toolTip = message(part.toolTip);
        if (!part.opens.empty() && part.kind == FacePartKind::Link) planned.opens = message(part.opens);
        if (!part.shownWhen.empty()) {
            planned.shownWhen = condition(part.shownWhen, part.field);
            if (!planned.shownWhen) return false;  // shown when it should not be would be a wrong answer
        }
        std::vector<FaceRule> kept;
        for (const FaceRule& rule : part.rules) {
            auto program = rule.where.empty() ? nullptr : condition(rule.where, part.field);
            if (!program && !rule.where.empty()) continue;
            planned.rules.push_back(std::move(program));
            kept.push_back(rule);
        }
        planned.design.rules = std::move(kept);
        return true;
    }

    const Design& design_;
    const ColumnDesign& column_;
    const TableSchema& schema_;
    RuleVocabulary vocabulary_;
    std::vector<Finding>& findings_;
    std::string where_;
    PlannedFace planned_;
};

void addNames(const FacePart& part, std::vector<std::string>& names) {
    const auto addRule = [&](const std::string& rule) {
        if (rule.empty()) return;
        const auto read = columnsNamed(rule);
        names.insert(names.end(), read.begin(), read.end());
    };
    if (!part.field.empty()) names.push_back(part.field);
    names.insert(names.end(), part.bar.fields.begin(), part.bar.fields.end());
    for (const std::string* pattern : {&part.text, &part.toolTip, &part.opens})
        forEachArgument(*pattern, [&](const std::string& name, bool) { names.push_back(name); });
    addRule(part.shownWhen);
    for (const FaceRule& rule : part.rules) addRule(rule.where);
    for (const FacePart& child : part.parts) addNames(child, names);
}

}  // namespace

std::shared_ptr<const PlannedFace> plannedFace(const Design& design, const FaceDesign& face, const ColumnDesign& column,
                                               const TableSchema& schema, const Registered* registered,
                                               std::vector<Finding>& findings) {
    return FacePlanner(design, face, column, schema, registered, findings).run(face.root);
}

Result<std::shared_ptr<const Program>> partCondition(const std::string& rule, const std::string& field,
                                                     const TableSchema& schema, const RuleVocabulary& vocabulary) {
    constexpr const char* kCall = "holds_for_this_part";
    BindOptions options;
    options.expected = RuleKind::Boolean;
    auto made = compileRule(rule, schema, vocabulary, options);
    if (!made && !schema.find("value")) {
        RuleVocabulary own = vocabulary;
        own.functions.push_back({kCall, {"value"}, rule});
        if (auto called = compileRule(fmt::format("{}({})", kCall, fieldInRule(field)), schema, own, options))
            made = std::move(called);
    }
    if (made && !(*made)->windows.empty())
        return Error{ErrorCode::Unsupported,
                     "A part looks at one record; what looks at others is for a computed column."};
    return made;
}

std::vector<std::string> fieldNamesOf(const FacePart& root) {
    std::vector<std::string> names;
    addNames(root, names);
    return names;
}

}  // namespace jollyrow
