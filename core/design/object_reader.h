// SPDX-License-Identifier: MIT
#pragma once
// ObjectReader: reads one JSON object of a design file, noting every key it was asked for; what nobody asked for is
// unknown and kept. A wrong value becomes a finding, and the default stays. Inside of the design room.

#include <fmt/format.h>

#include <array>
#include <cstdint>
#include <nlohmann/json.hpp>
#include <set>
#include <string>
#include <string_view>
#include <vector>

#include "core/base/near_name.h"
#include "core/design/finding.h"

namespace jollyrow {

template <class E>
struct EnumName {
    E value;
    std::string_view name;
};

class ObjectReader final {
  public:
    ObjectReader(const nlohmann::ordered_json& object, std::string where, std::vector<Finding>& findings)
        : object_(object), where_(std::move(where)), findings_(findings) {}

    void read(const char* key, std::string& value) {
        if (const nlohmann::ordered_json* found = find(key))
            found->is_string() ? void(value = found->get<std::string>()) : wrong(key, "a text");
    }
    void read(const char* key, std::vector<std::string>& values) {
        const nlohmann::ordered_json* list = array(key);
        for (std::size_t i = 0; list && i < list->size(); ++i)
            (*list)[i].is_string() ? values.push_back((*list)[i].get<std::string>()) : wrong(key, "a list of texts");
    }
    void read(const char* key, bool& value) {
        if (const nlohmann::ordered_json* found = find(key))
            found->is_boolean() ? void(value = found->get<bool>()) : wrong(key, "true or false");
    }
    void read(const char* key, int& value, int least, int most) {
        const nlohmann::ordered_json* found = find(key);
        if (!found) return;
        const bool whole = found->is_number_integer();
        const auto number = whole ? found->get<std::int64_t>() : 0;
        if (!whole || number < least || number > most)
            return wrong(key, fmt::format("a whole number from {} to {}", least, most));
        value = static_cast<int>(number);
    }
    void read(const char* key, double& value, double least, double most) {
        const nlohmann::ordered_json* found = find(key);
        if (!found) return;
        const double number = found->is_number() ? found->get<double>() : least - 1;
        if (!(number >= least && number <= most)) return wrong(key, fmt::format("a number from {} to {}", least, most));
        value = number;
    }
    template <class E, std::size_t N>
    void read(const char* key, E& value, const std::array<EnumName<E>, N>& names) {
        const nlohmann::ordered_json* found = find(key);
        if (!found) return;
        std::string all;
        for (const auto& entry : names) {
            if (found->is_string() && found->get<std::string>() == entry.name) return void(value = entry.value);
            all += (all.empty() ? "" : ", ") + std::string(entry.name);
        }
        wrong(key, "one of " + all);
    }
    const nlohmann::ordered_json* object(const char* key) {
        const nlohmann::ordered_json* found = find(key);
        if (found && !found->is_object()) wrong(key, "an object");
        return found && found->is_object() ? found : nullptr;
    }
    const nlohmann::ordered_json* array(const char* key) {
        const nlohmann::ordered_json* found = find(key);
        if (found && !found->is_array()) wrong(key, "a list");
        return found && found->is_array() ? found : nullptr;
    }
    /// Reports the keys nobody asked for and returns them as JSON text, "" when there are none.
    std::string unknown() {
        auto kept = nlohmann::ordered_json::object();
        const std::vector<std::string> known(asked_.begin(), asked_.end());
        for (const auto& [key, value] : object_.items()) {
            if (asked_.contains(key)) continue;
            kept.get_ref<nlohmann::ordered_json::object_t&>().emplace_back(key, value);
            const auto near = nearestName(key, known);
            findings_.push_back({Severity::Note, path(key),
                                 fmt::format("\"{}\" is not known to this version; it is kept and has no effect.{}",
                                             key, near ? fmt::format(" Did you mean \"{}\"?", *near) : ""),
                                 near.value_or("")});
        }
        return kept.empty() ? std::string{} : kept.dump();
    }
    std::string path(std::string_view key) const {
        return where_.empty() ? std::string(key) : where_ + "/" + std::string(key);
    }

  private:
    const nlohmann::ordered_json* find(const char* key) {
        asked_.insert(key);
        const auto found = object_.find(key);
        return found == object_.end() ? nullptr : &*found;
    }
    void wrong(const char* key, const std::string& expected) {
        findings_.push_back({Severity::Warning, path(key),
                             fmt::format("{} must be {}; the default is used.", path(key), expected), ""});
    }
    const nlohmann::ordered_json& object_;
    std::string where_;
    std::vector<Finding>& findings_;
    std::set<std::string> asked_;
};

}  // namespace jollyrow
