// SPDX-License-Identifier: MIT
#include "workbench/rules/rule_names.h"

#include "core/design/condition.h"
#include "core/design/operators.h"

namespace jollyrow {

QStringList ruleNames(const Session& session, const Design& design) {
    QStringList names;
    const auto add = [&](const std::string& field) {
        if (const QString name = QString::fromStdString(fieldInRule(field)); !names.contains(name)) names << name;
    };
    for (const FieldSchema& field : session.schema().fields) add(field.name);
    for (const ForeignKey& key : session.schema().foreignKeys) {
        if (key.fields.size() != 1 || session.schema().isView) continue;
        if (const auto target = session.schemaOf(key.table))
            for (const FieldSchema& field : target->fields) add(key.fields.front() + "." + field.name);
    }
    const RuleVocabulary vocabulary = vocabularyOf(design, session.registered());
    for (const RuleFunction& function : vocabulary.functions) names << QString::fromStdString(function.name);
    for (const auto& external : vocabulary.externals) names << QString::fromStdString(external->name);
    for (const auto& parameter : vocabulary.parameters) names << u':' + QString::fromStdString(parameter.name);
    return names;
}

}  // namespace jollyrow
