// SPDX-License-Identifier: MIT
#include "core/session/enquiries.h"

namespace jollyrow {

void Enquiries::stop() {
    for (Latest& latest : latest_) latest.cancel();
    ending_.request();
    worker_.stop();
}

}  // namespace jollyrow
