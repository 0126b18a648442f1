// SPDX-License-Identifier: MIT
#pragma once
// A socket that servers of the tests are reached at: 127.0.0.1, a port that was free.

#include <arpa/inet.h>
#include <sys/socket.h>

namespace jollyrow::test {

struct Loopback {
    int socket = -1, port = 0;
};

inline Loopback listenOnLoopback() {
    Loopback made;
    made.socket = socket(AF_INET, SOCK_STREAM, 0);
    sockaddr_in at{};
    at.sin_family = AF_INET;
    at.sin_addr.s_addr = htonl(INADDR_LOOPBACK);
    socklen_t size = sizeof at;
    bind(made.socket, reinterpret_cast<sockaddr*>(&at), size);
    listen(made.socket, 16);
    getsockname(made.socket, reinterpret_cast<sockaddr*>(&at), &size);
    made.port = ntohs(at.sin_port);
    return made;
}

}  // namespace jollyrow::test
