// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "follow/follower.h"

#include <atomic>
#include <memory>
#include <string>
#include <thread>

namespace stone
{

/// The port through which a game tells a Follower what goes on, and through which games that said hello are told back. It
/// listens on a thread of its own.
class GameLink
{
public:
    static constexpr int usualPort = 9137;
    static constexpr std::size_t mostGames = 8; ///< that are told back
    /// Whoever said nothing for so long is gone.
    static constexpr double gone_s = 10.0;

    /// `port`: 1 to 65535, or 0 for any that is free. `anywhere`: other machines may tell too; otherwise this one alone. Throws
    /// FileError in one line where the port cannot be had.
    GameLink(std::shared_ptr<Follower> follower, int port, bool anywhere);
    ~GameLink();
    GameLink(const GameLink&) = delete;
    GameLink& operator=(const GameLink&) = delete;

    int port() const { return port_; }
    /// The addresses of those who said hello and are still there. Any thread.
    std::vector<std::string> games() const;

    /// Tells all of them, in bundles. What cannot be sent is lost, as anything is on this way. Any thread.
    void tell(const std::vector<OscMessage>& messages);

private:
    struct Game;

    void listen();
    void forgetGone();

    std::shared_ptr<Follower> follower_;
    int socket_ = -1;
    int port_ = 0;
    std::atomic<bool> stop_ = false;
    mutable std::mutex mutex_; ///< the next
    std::vector<Game> games_;
    std::thread thread_;
};

/// Sends packets to a port of some machine: what a game does. For one thread.
class GameSender
{
public:
    /// Throws FileError where there is no such machine.
    GameSender(const std::string& host, int port);
    ~GameSender();
    GameSender(const GameSender&) = delete;
    GameSender& operator=(const GameSender&) = delete;

    void send(std::span<const std::byte> bytes) const;
    /// What came back, without waiting; empty: nothing.
    std::vector<std::byte> receive() const;
    /// To which answers come.
    int ownPort() const;

private:
    int socket_ = -1;
};

} // namespace stone
