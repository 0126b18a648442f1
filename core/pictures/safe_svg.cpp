// SPDX-License-Identifier: MIT
// Idea: expat reads the document, elements by a list of those that draw are written out again with the attributes that
// are harmless. Beside that the tree of what `use` copies is kept, to know before drawing how many elements there would
// be. Covered by tests/pictures/safe_svg_test.cpp and tests/fuzz/picture_fuzz.cpp.
#include "core/pictures/safe_svg.h"

#include <expat.h>
#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <charconv>
#include <cmath>
#include <map>
#include <memory>
#include <optional>
#include <vector>

#include "core/base/base64.h"
#include "core/base/trimmed.h"
#include "core/pictures/picture_kind.h"

namespace jollyrow {
namespace {

constexpr std::size_t kMostLevels = 64;
constexpr std::size_t kMostElements = 20'000;  // copies by `use` counted
constexpr std::size_t kMostEmbedded = 8;
constexpr std::int64_t kMostEmbeddedPixels = 4'000'000;
constexpr double kMostNumber = 1e6;

constexpr std::array<std::string_view, 24> kDrawn = {"svg",    "g",     "defs",           "a",
                                                     "switch", "path",  "rect",           "circle",
                                                     "line",   "text",  "linearGradient", "radialGradient",
                                                     "stop",   "style", "polyline",       "polygon",
                                                     "use",    "tspan", "ellipse",        "image",
                                                     "symbol", "title", "desc",           "solidColor"};

std::string_view localName(std::string_view name) {
    const std::size_t colon = name.rfind(':');
    return colon == std::string_view::npos ? name : name.substr(colon + 1);
}

std::string loweredName(std::string_view text) {
    std::string out(text);
    for (char& c : out) c = c >= 'A' && c <= 'Z' ? static_cast<char>(c + 32) : c;
    return out;
}

void appendEscaped(std::string& out, std::string_view text) {
    for (const char c : text) {
        switch (c) {
            case '&': out += "&amp;"; break;
            case '<': out += "&lt;"; break;
            case '>': out += "&gt;"; break;
            case '"': out += "&quot;"; break;
            case '\n': out += "&#10;"; break;
            case '\t': out += "&#9;"; break;
            case '\r': out += "&#13;"; break;
            default: out += c;
        }
    }
}

/// Everything that url(…) names stands in the document itself.
bool staysInside(std::string_view lower) {
    for (std::size_t at = lower.find("url("); at != std::string_view::npos; at = lower.find("url(", at + 4)) {
        const std::size_t first = lower.find_first_not_of(" \t\r\n'\"", at + 4);
        if (first == std::string_view::npos || lower[first] != '#') return false;
    }
    return true;
}

/// Words of a style sheet that may stand; nullopt when it reaches outside. Escapes could hide anything.
std::optional<std::string> safeStyle(std::string_view css) {
    std::string lower = loweredName(css);
    if (lower.find('@') != std::string::npos || lower.find('\\') != std::string::npos || !staysInside(lower))
        return std::nullopt;
    std::string out(css);
    for (std::size_t at = lower.find("dasharray"); at != std::string::npos; at = lower.find("dasharray", at + 1))
        out.replace(at, 9, "plainline");
    return out;
}

/// No number so large that drawing it never ends.
bool isMeasured(std::string_view text) {
    for (std::size_t at = 0; at < text.size();) {
        const char c = text[at];
        if ((c < '0' || c > '9') && c != '.') {
            ++at;
            continue;
        }
        double number = 0;
        const auto [end, error] = std::from_chars(text.data() + at, text.data() + text.size(), number);
        if (error == std::errc::result_out_of_range || std::abs(number) > kMostNumber) return false;
        at = error == std::errc() ? static_cast<std::size_t>(end - text.data()) : at + 1;
    }
    return true;
}

/// An embedded PNG or JPEG of a bounded size.
bool isSafeData(std::string_view href) {
    const std::size_t comma = href.find(',');
    if (comma == std::string_view::npos || loweredName(href.substr(0, comma)).find(";base64") == std::string::npos)
        return false;
    const auto bytes = fromBase64(href.substr(comma + 1));
    if (!bytes || pictureKind(*bytes) == PictureKind::Svg) return false;
    const auto size = pictureSize(*bytes);
    return size && std::int64_t{size->width} * size->height <= kMostEmbeddedPixels;
}

class Filter {
  public:
    Result<std::string> run(std::string_view bytes) {
        const std::unique_ptr<std::remove_pointer_t<XML_Parser>, decltype(&XML_ParserFree)> parser(
            XML_ParserCreate(nullptr), XML_ParserFree);
        parser_ = parser.get();
        XML_SetUserData(parser_, this);
        XML_SetElementHandler(
            parser_,
            [](void* self, const char* name, const char** attributes) {
                static_cast<Filter*>(self)->start(name, attributes);
            },
            [](void* self, const char*) { static_cast<Filter*>(self)->end(); });
        XML_SetCharacterDataHandler(parser_, [](void* self, const char* text, int length) {
            static_cast<Filter*>(self)->text({text, static_cast<std::size_t>(length)});
        });
        XML_SetEntityDeclHandler(parser_, [](void* self, const char*, int, const char*, int, const char*, const char*,
                                             const char*, const char*) {
            static_cast<Filter*>(self)->refuse("declares entities, which are not expanded");
        });
        // An entity that the document type outside would declare.
        XML_SetSkippedEntityHandler(parser_, [](void* self, const char*, int) {
            static_cast<Filter*>(self)->refuse("uses an entity that it does not declare");
        });
        const auto status = XML_Parse(parser_, bytes.data(), static_cast<int>(bytes.size()), 1);
        if (!refusal_.empty()) return refused(refusal_);
        if (status != XML_STATUS_OK)
            return Error{ErrorCode::InvalidInput,
                         fmt::format("The SVG breaks off or is damaged at line {}: {}.",
                                     XML_GetCurrentLineNumber(parser_), XML_ErrorString(XML_GetErrorCode(parser_)))};
        if (root_ != "svg") return Error{ErrorCode::InvalidInput, "This is XML, but no SVG."};
        if (const auto count = expanded(); !count || *count > kMostElements)
            return refused(count ? fmt::format("would draw more than {} elements", kMostElements)
                                 : std::string("copies itself within itself"));
        return std::move(out_);
    }

  private:
    struct Node {
        std::vector<std::size_t> inner;
        std::string copies;  ///< the id that a `use` names
        std::size_t total = 0;
        bool isCounting = false;
    };

    static Error refused(const std::string& why) {
        return {ErrorCode::Refused, fmt::format("The SVG {}; it is not shown.", why)};
    }

    void refuse(std::string_view why) {
        if (refusal_.empty()) refusal_ = why;
        XML_StopParser(parser_, XML_FALSE);
    }

    void start(std::string_view name, const char** attributes) {
        const std::string_view local = localName(name);
        if (root_.empty()) root_ = local;
        if (++level_ > kMostLevels) return refuse(fmt::format("is nested more than {} deep", kMostLevels));
        if (skippedFrom_ != 0) return;
        const bool isStyle = local == "style";
        if (std::find(kDrawn.begin(), kDrawn.end(), local) == kDrawn.end() ||
            (local == "image" && !isSafeImage(attributes))) {
            skippedFrom_ = level_;
            return;
        }
        if (nodes_.size() >= kMostElements) return refuse(fmt::format("has more than {} elements", kMostElements));
        const std::size_t node = nodes_.size();
        nodes_.emplace_back();
        if (!open_.empty()) nodes_[open_.back()].inner.push_back(node);
        open_.push_back(node);
        names_.emplace_back(local);
        out_ += '<';
        out_ += local;
        if (local == "svg" && node == 0)
            out_ += " xmlns=\"http://www.w3.org/2000/svg\" xmlns:xlink=\"http://www.w3.org/1999/xlink\"";
        for (; *attributes; attributes += 2) attribute(local, attributes[0], attributes[1]);
        out_ += '>';
        inStyle_ = isStyle;
        style_.clear();
    }

    bool isSafeImage(const char** attributes) {
        for (; *attributes; attributes += 2)
            if (localName(attributes[0]) == "href") return ++embedded_ <= kMostEmbedded && isSafeData(attributes[1]);
        return false;
    }

    void attribute(std::string_view element, std::string_view name, std::string_view value) {
        const std::string_view local = localName(name);
        const std::string lower = loweredName(local);
        const bool hasPrefix = local.size() != name.size();
        if (name.starts_with("xmlns") || lower.starts_with("on") || lower.find("dasharray") != std::string::npos ||
            (hasPrefix && local != "href" && name != "xml:space") || !staysInside(loweredName(value)))
            return;
        std::string kept(value);
        if (local == "href") {
            const bool inside = trimmed(value).starts_with('#');
            if (!inside && element != "image") return;
            if (element == "image" && inside) return;
            if (element == "use") nodes_[open_.back()].copies = std::string(trimmed(value).substr(1));
        } else if (local == "style") {
            auto safe = safeStyle(value);
            if (!safe) return;
            kept = std::move(*safe);
        }
        if (local == "id") ids_.emplace(value, open_.back());
        const bool isText = local == "id" || local == "class" || local == "href" || local.starts_with("font-family");
        if (!isText && !isMeasured(value)) return refuse("has numbers beyond a million");
        out_ += ' ';
        if (local == "href") out_ += "xlink:";
        if (name == "xml:space") out_ += "xml:";
        out_ += local;
        out_ += "=\"";
        appendEscaped(out_, kept);
        out_ += '"';
    }

    void end() {
        const std::size_t closing = level_--;
        if (skippedFrom_ != 0) {
            if (closing == skippedFrom_) skippedFrom_ = 0;
            return;
        }
        if (open_.empty()) return;
        if (inStyle_) {
            if (!isMeasured(style_)) return refuse("has numbers beyond a million");
            if (const auto safe = safeStyle(style_)) appendEscaped(out_, *safe);
            inStyle_ = false;
        }
        out_ += "</" + names_.back() + ">";
        names_.pop_back();
        open_.pop_back();
    }

    void text(std::string_view text) {
        if (skippedFrom_ != 0) return;
        if (inStyle_)
            style_ += text;
        else
            appendEscaped(out_, text);
    }

    /// How many elements are drawn, copies counted; nullopt when something copies itself.
    std::optional<std::size_t> expanded() { return nodes_.empty() ? 0 : count(0, 0); }

    std::optional<std::size_t> count(std::size_t at, std::size_t depth) {
        Node& node = nodes_[at];
        if (node.total != 0) return node.total;
        if (node.isCounting || depth > kMostLevels * 4) return std::nullopt;
        node.isCounting = true;
        std::size_t total = 1;
        std::vector<std::size_t> parts = node.inner;
        if (const auto copied = node.copies.empty() ? ids_.end() : ids_.find(node.copies); copied != ids_.end())
            parts.push_back(copied->second);
        for (const std::size_t part : parts) {
            const auto one = count(part, depth + 1);
            if (!one) return std::nullopt;
            total = std::min(total + *one, kMostElements + 1);
        }
        nodes_[at].isCounting = false;
        return nodes_[at].total = total;
    }

    XML_Parser parser_ = nullptr;
    std::string out_, root_, refusal_, style_;
    std::vector<Node> nodes_;
    std::vector<std::size_t> open_;
    std::vector<std::string> names_;
    std::map<std::string, std::size_t, std::less<>> ids_;
    std::size_t level_ = 0, skippedFrom_ = 0, embedded_ = 0;
    bool inStyle_ = false;
};

}  // namespace

Result<std::string> safeSvg(std::string_view bytes) {
    if (bytes.size() > kMostSvgBytes)
        return Error{ErrorCode::Refused,
                     fmt::format("The SVG is {:.1f} MB long; more than {} MB are not shown. Make it smaller.",
                                 static_cast<double>(bytes.size()) / 1e6, kMostSvgBytes / 1'000'000)};
    return Filter().run(bytes);
}

}  // namespace jollyrow
