// SPDX-License-Identifier: MIT
#pragma once
// Stands between a client and a server's socket and does what networks do: cuts a connection after so many bytes, holds
// bytes back, or swallows them without a word. A connection is one thread of its own.

#include <poll.h>
#include <sys/socket.h>
#include <sys/un.h>
#include <unistd.h>

#include <algorithm>
#include <array>
#include <atomic>
#include <chrono>
#include <cstdint>
#include <mutex>
#include <string>
#include <thread>
#include <utility>
#include <vector>

#include <fmt/format.h>

#include "tests/sources/loopback.h"

namespace jollyrow::test {

enum class Fault { None, Cut, Swallow, Delay };
enum class Way { ToServer, ToClient };

/// What happens to a connection; those before and after it pass unharmed.
struct FaultPlan {
    Fault fault = Fault::None;
    Way way = Way::ToServer;
    std::int64_t after = 0;  ///< bytes of that way that pass before it
    int passing = 0;         ///< connections that come before the one that it happens to
};

class FaultProxy final {
  public:
    explicit FaultProxy(std::string serverSocket) : server_(std::move(serverSocket)) {
        const Loopback made = listenOnLoopback();
        listener_ = made.socket;
        port_ = made.port;
        accepting_ = std::thread([this] { accepts(); });
    }
    FaultProxy(const FaultProxy&) = delete;
    FaultProxy& operator=(const FaultProxy&) = delete;
    ~FaultProxy() {
        isOver_ = true;
        accepting_.join();
        for (std::thread& thread : serving_) thread.join();
        close(listener_);
    }
    std::string address(const std::string& user = "tester") const {
        return fmt::format("postgresql://{}@127.0.0.1:{}/postgres?sslmode=disable", user, port_);
    }
    void plan(FaultPlan plan) {
        const std::lock_guard lock(mutex_);
        next_ = plan;
    }
    /// Shut, it hangs up on everybody who comes.
    void setShut(bool isShut) { isShut_ = isShut; }
    /// Bytes that have passed on all connections, and whether a fault has come to pass since the last plan.
    std::int64_t passed(Way way) const { return passed_[static_cast<std::size_t>(way)]; }
    int faults() const { return faults_; }

  private:
    void accepts() {
        while (!isOver_) {
            pollfd waiting{listener_, POLLIN, 0};
            if (poll(&waiting, 1, 20) <= 0) continue;
            const int client = accept(listener_, nullptr, nullptr);
            if (isShut_) {
                close(client);
                continue;
            }
            FaultPlan plan;
            {
                const std::lock_guard lock(mutex_);
                if (next_.passing == 0)
                    plan = std::exchange(next_, FaultPlan{});
                else
                    --next_.passing;
            }
            serving_.emplace_back([this, client, plan] { serves(client, plan); });
        }
    }
    void serves(int client, FaultPlan plan) {
        const int server = socket(AF_UNIX, SOCK_STREAM, 0);
        sockaddr_un at{};
        at.sun_family = AF_UNIX;
        server_.copy(at.sun_path, sizeof at.sun_path - 1);
        if (connect(server, reinterpret_cast<sockaddr*>(&at), sizeof at) == 0) passes(client, server, plan);
        close(server);
        close(client);
    }
    /// Until one of them goes, or the fault cuts them.
    void passes(int client, int server, FaultPlan plan) {
        std::int64_t left = plan.after;
        bool isSwallowing = false;
        while (!isOver_) {
            std::array<pollfd, 2> both{pollfd{client, POLLIN, 0}, pollfd{server, POLLIN, 0}};
            if (poll(both.data(), 2, 20) <= 0) continue;
            for (const Way way : {Way::ToServer, Way::ToClient}) {
                const bool toServer = way == Way::ToServer;
                if ((both[toServer ? 0 : 1].revents & (POLLIN | POLLHUP | POLLERR)) == 0) continue;
                std::array<char, 4096> bytes;
                const std::int64_t count = read(toServer ? client : server, bytes.data(), bytes.size());
                if (count <= 0) return;
                if (isSwallowing) continue;
                if (plan.way != way || plan.fault == Fault::None || count <= left) {
                    if (plan.way == way) left -= count;
                    if (!passOn(way, toServer ? server : client, bytes.data(), count, count)) return;
                    continue;
                }
                ++faults_;
                if (plan.fault == Fault::Delay) {
                    left = 0;
                    if (!passOn(way, toServer ? server : client, bytes.data(), count, kPiece)) return;
                    continue;
                }
                if (!passOn(way, toServer ? server : client, bytes.data(), left, left)) return;
                if (plan.fault == Fault::Cut) return;
                isSwallowing = true;
            }
        }
    }
    bool passOn(Way way, int to, const char* bytes, std::int64_t count, std::int64_t piece) {
        for (std::int64_t done = 0; done < count;) {
            if (piece < count) std::this_thread::sleep_for(std::chrono::microseconds(200));
            const ssize_t some =
                send(to, bytes + done, static_cast<std::size_t>(std::min(piece, count - done)), MSG_NOSIGNAL);
            if (some <= 0) return false;
            done += some;
        }
        passed_[static_cast<std::size_t>(way)] += count;
        return true;
    }

    static constexpr std::int64_t kPiece = 37;  ///< bytes at once, where they are delayed
    const std::string server_;
    int listener_ = -1;
    int port_ = 0;
    std::atomic<bool> isOver_{false}, isShut_{false};
    std::mutex mutex_;
    FaultPlan next_;
    std::array<std::atomic<std::int64_t>, 2> passed_{};
    std::atomic<int> faults_{0};
    std::thread accepting_;
    std::vector<std::thread> serving_;  ///< made by accepting_
};

}  // namespace jollyrow::test
