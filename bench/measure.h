// SPDX-License-Identifier: MIT
#pragma once
// Measures two ways of doing the same work in turns, so that a noisy machine disturbs both alike.

#include <functional>
#include <string>
#include <vector>

namespace jollyrow::bench {

struct Figure {
    std::string name;
    double ratio = 0;   ///< ours / theirs of one round each, the median over rounds
    double oursMs = 0;  ///< medians
    double theirsMs = 0;
    std::string against;  ///< what "theirs" is
    std::string wanted;   ///< the figure aimed at, in words
};

/// Runs `ours` and `theirs` alternately; each returns its milliseconds.
Figure compare(std::string name, std::string against, std::string wanted, int rounds,
               const std::function<double()>& ours, const std::function<double()>& theirs);
/// A figure against a fixed limit in milliseconds.
Figure limit(std::string name, std::string wanted, double limitMs, int rounds, const std::function<double()>& ours);
double timed(const std::function<void()>& work);
double median(std::vector<double> values);

struct Setting {
    std::int64_t rows = 1'000'000;
    int rounds = 7;
    std::string database;  ///< a boatyard of `rows` jobs
};
std::vector<Figure> benchLoading(const Setting& setting);
std::vector<Figure> benchSorting(const Setting& setting);
std::vector<Figure> benchPainting(const Setting& setting);
std::vector<Figure> benchFaces(const Setting& setting);
std::vector<Figure> benchColumns(const Setting& setting);
std::vector<Figure> benchRules(const Setting& setting);
std::vector<Figure> benchGroups(const Setting& setting);
std::vector<Figure> benchEditing(const Setting& setting);
std::vector<Figure> benchGroupFrames(const Setting& setting);
std::vector<Figure> benchObjects(const Setting& setting);
std::vector<Figure> benchServer(const Setting& setting);

}  // namespace jollyrow::bench
