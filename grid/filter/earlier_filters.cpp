// SPDX-License-Identifier: MIT
// Covered by tests/grid/tst_filters.cpp.
#include "grid/filter/earlier_filters.h"

#include <fmt/format.h>
#include <QDir>
#include <QFile>
#include <QSaveFile>

#include <algorithm>
#include <cstdint>

#include <nlohmann/json.hpp>

namespace jollyrow {
namespace {

constexpr qint64 kMostBytes = 1 << 20;
constexpr std::size_t kMostParts = 200;

/// FNV-1a of 64 bits: names a file, and hides what it is of from a listing of the folder.
std::string nameOf(const std::string& source, const std::string& table) {
    std::uint64_t hash = 0xcbf2'9ce4'8422'2325ULL;
    for (const char c : source + '\n' + table) hash = (hash ^ static_cast<unsigned char>(c)) * 0x100'0000'01b3ULL;
    return fmt::format("{:016x}.json", hash);
}

std::string textIn(const nlohmann::json& object, const char* key) {
    const auto found = object.find(key);
    return found != object.end() && found->is_string() ? found->get<std::string>() : std::string();
}

/// The same condition, whatever it asks for: of the same column, or the same rule.
bool isSamePlace(const FilterDesign& a, const FilterDesign& b) {
    return a.field == b.field && (!a.field.empty() || a.rule == b.rule);
}

}  // namespace

void EarlierFilters::open(const std::string& folder, const std::string& source, const std::string& table) {
    path_ = folder.empty() || source.empty() ? std::string() : folder + "/filters/" + nameOf(source, table);
    all_.clear();
    isFresh_ = false;
    read();
}

void EarlierFilters::changed(const Filter& before, const Filter& now) {
    const bool isTaken = std::any_of(before.begin(), before.end(), [&](const FilterDesign& part) {
        return part.on && std::none_of(now.begin(), now.end(),
                                       [&](const FilterDesign& other) { return isSamePlace(part, other); });
    });
    if (!isTaken) return;
    std::erase(all_, before);
    all_.insert(all_.begin(), before);
    if (all_.size() > kMost) all_.resize(kMost);
    isFresh_ = true;
    write();
}

void EarlierFilters::read() {
    QFile file(QString::fromStdString(path_));
    if (path_.empty() || file.size() > kMostBytes || !file.open(QIODevice::ReadOnly)) return;
    const QByteArray bytes = file.read(kMostBytes);
    const auto json = nlohmann::json::parse(bytes.begin(), bytes.end(), nullptr, false);
    const auto filters = json.is_object() ? json.find("filters") : json.end();
    if (!json.is_object() || filters == json.end() || !filters->is_array()) return;
    for (const auto& one : *filters) {
        Filter filter;
        for (std::size_t i = 0; one.is_array() && i < std::min(one.size(), kMostParts); ++i) {
            if (!one[i].is_object()) continue;
            FilterDesign part;
            part.rule = textIn(one[i], "rule");
            part.field = textIn(one[i], "field");
            part.entry = textIn(one[i], "entry");
            const auto on = one[i].find("on");
            part.on = on == one[i].end() || !on->is_boolean() || on->get<bool>();
            if (!part.rule.empty()) filter.push_back(std::move(part));
        }
        if (!filter.empty() && all_.size() < kMost) all_.push_back(std::move(filter));
    }
}

/// A convenience: where it cannot be written, they are there until the grid is closed.
void EarlierFilters::write() const {
    if (path_.empty()) return;
    nlohmann::json filters = nlohmann::json::array();
    for (const Filter& filter : all_) {
        nlohmann::json parts = nlohmann::json::array();
        for (const FilterDesign& part : filter)
            parts.push_back({{"rule", part.rule}, {"field", part.field}, {"entry", part.entry}, {"on", part.on}});
        filters.push_back(std::move(parts));
    }
    const QString path = QString::fromStdString(path_);
    const QString folder = QFileInfo(path).path();
    if (!QDir().mkpath(folder)) return;
    QFile::setPermissions(folder, QFile::ReadOwner | QFile::WriteOwner | QFile::ExeOwner);
    QSaveFile file(path);
    if (!file.open(QIODevice::WriteOnly)) return;
    file.setPermissions(QFile::ReadOwner | QFile::WriteOwner);
    const std::string text = nlohmann::json{{"version", 1}, {"filters", filters}}.dump(
        1, ' ', false, nlohmann::json::error_handler_t::replace);
    file.write(text.data(), static_cast<qint64>(text.size()));
    file.commit();
}

}  // namespace jollyrow
