// SPDX-License-Identifier: MIT
#include "core/design/source_json.h"

#include "core/base/source_address.h"
#include "core/design/object_reader.h"

namespace jollyrow {
namespace {

using Json = nlohmann::ordered_json;

constexpr std::array<EnumName<StoredForm>, 5> kForms = {{{StoredForm::Pattern, "pattern"},
                                                         {StoredForm::Seconds, "seconds"},
                                                         {StoredForm::Milliseconds, "milliseconds"},
                                                         {StoredForm::Number, "number"},
                                                         {StoredForm::Words, "words"}}};

Json jsonOf(const ReadAs& how) {
    if (how.form == StoredForm::Own) return Json::parse(how.unknown, nullptr, false);
    Json out = {{"as", name(how.form)}};
    if (how.form == StoredForm::Pattern) out["pattern"] = how.pattern;
    if (how.form == StoredForm::Number && how.pattern != ".") out["decimalSign"] = how.pattern;
    if (how.form == StoredForm::Words) {
        out["yes"] = how.yes;
        out["no"] = how.no;
    }
    addUnknown(out, how.unknown);
    return out;
}

/// What cannot be followed is kept as it stands, and has no effect.
ReadAs readAsFrom(const Json& json, const std::string& where, std::vector<Finding>& findings) {
    ReadAs how;
    ObjectReader reader(json, where, findings);
    reader.read("as", how.form, kForms);
    if (how.form == StoredForm::Pattern) reader.read("pattern", how.pattern);
    if (how.form == StoredForm::Number) {
        how.pattern = ".";
        reader.read("decimalSign", how.pattern);
    }
    if (how.form == StoredForm::Words) {
        reader.read("yes", how.yes);
        reader.read("no", how.no);
    }
    const auto checked = checkReadAs(how);
    if (!checked)
        findings.push_back({Severity::Warning, where,
                            fmt::format("{} cannot be read so; it is read as it is stored. {}",
                                        where.substr(where.rfind('/') + 1), checked.error().message),
                            ""});
    how.unknown = reader.unknown();
    return checked && how.form != StoredForm::Own ? how : ReadAs{StoredForm::Own, {}, {}, {}, json.dump()};
}

}  // namespace

void addUnknown(Json& object, const std::string& unknown) {
    if (unknown.empty()) return;
    const Json kept = Json::parse(unknown, nullptr, false);
    if (!kept.is_object()) return;
    for (const auto& [key, value] : kept.items())
        if (!object.contains(key)) object[key] = value;
}

Json jsonOf(const SourceDesign& source) {
    Json out = {{"kind", source.kind}, {"path", source.path}, {"table", source.table}};
    if (!source.query.empty()) out["query"] = source.query;
    if (!source.zone.empty()) out["zone"] = source.zone;
    if (!source.pictures.empty()) out["pictures"] = source.pictures;
    for (const auto& [field, how] : source.readAs) out["readAs"][field] = jsonOf(how);
    return out;
}

void readSource(const Json& json, SourceDesign& source, std::vector<Finding>& findings) {
    ObjectReader reader(json, "source", findings);
    reader.read("kind", source.kind);
    reader.read("path", source.path);
    reader.read("table", source.table);
    reader.read("query", source.query);
    reader.read("zone", source.zone);
    reader.read("pictures", source.pictures);
    if (const Json* fields = reader.object("readAs"))
        for (const auto& [field, how] : fields->items()) {
            const std::string where = "source/readAs/" + field;
            source.readAs.emplace(field, how.is_object() ? readAsFrom(how, where, findings)
                                                         : ReadAs{StoredForm::Own, {}, {}, {}, how.dump()});
            if (!how.is_object())
                findings.push_back({Severity::Warning, where, where + " must be an object; it has no effect.", ""});
        }
    source.unknown = reader.unknown();
    const std::string known = sourceKindOf(source.path);
    if (source.kind != known && source.kind != "sqlite" && source.kind != "postgresql")
        findings.push_back({Severity::Problem, "source/kind",
                            fmt::format("\"{}\" is no kind of source that this version can open; it opens "
                                        "\"sqlite\" and \"postgresql\". It is taken for \"{}\".",
                                        source.kind, known),
                            known});
    else if (source.kind != known && !source.path.empty())
        findings.push_back({Severity::Warning, "source/kind",
                            fmt::format("The source is said to be \"{}\"; by its path it is \"{}\" and is opened so.",
                                        source.kind, known),
                            known});
}

}  // namespace jollyrow
