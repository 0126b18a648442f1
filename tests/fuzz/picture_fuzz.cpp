// SPDX-License-Identifier: MIT
// Any bytes as a picture: refused with a message, or drawn no larger than its place, in bounded time and memory.
#include <QGuiApplication>

#include <cstdint>
#include <cstdlib>

#include "core/pictures/safe_svg.h"
#include "grid/pictures/decode_picture.h"

using namespace jollyrow;

namespace {

void prepare() {
    qputenv("QT_QPA_PLATFORM", "offscreen");
    qInstallMessageHandler([](QtMsgType, const QMessageLogContext&, const QString&) {});
    static int count = 1;
    static char name[] = "fuzz_picture";
    static char* arguments[] = {name, nullptr};
    static QGuiApplication application(count, arguments);
}

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    [[maybe_unused]] static const bool isReady = (prepare(), true);
    const std::string bytes(reinterpret_cast<const char*>(data), size);
    for (const bool fills : {false, true}) {
        const auto picture = decodePicture(bytes, QSize(40, 30), fills);
        if (!picture && picture.error().message.empty()) std::abort();
        if (picture && (picture->image.isNull() || picture->image.width() > 40 || picture->image.height() > 30))
            std::abort();
    }
    // What was let through is let through again, and says no more than before.
    if (const auto safe = safeSvg(bytes)) {
        const auto again = safeSvg(*safe);
        if (!again || *again != *safe) std::abort();
    }
    return 0;
}
