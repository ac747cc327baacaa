// SPDX-License-Identifier: MPL-2.0
#include "follow/game_link.h"

#include "project/file_error.h"

#include <algorithm>
#include <arpa/inet.h>
#include <array>
#include <cerrno>
#include <chrono>
#include <cstring>
#include <netdb.h>
#include <netinet/in.h>
#include <poll.h>
#include <sys/socket.h>
#include <unistd.h>

namespace stone
{

namespace
{

/// So often whoever listens looks whether it is to stop.
constexpr int look_ms = 100;
/// Nobody has to take larger packets than a network usually carries whole.
constexpr std::size_t bundleBytes = 1200;

std::string portText(int port)
{
    return "port " + std::to_string(port);
}

int portOf(int socket)
{
    sockaddr_in own{};
    socklen_t size = sizeof own;
    getsockname(socket, reinterpret_cast<sockaddr*>(&own), &size);
    return ntohs(own.sin_port);
}

} // namespace

struct GameLink::Game {
    sockaddr_in from{};    ///< it tells from there
    sockaddr_in address{}; ///< and wants to be told there
    std::chrono::steady_clock::time_point heard;

    std::string words() const
    {
        std::array<char, INET_ADDRSTRLEN> text{};
        inet_ntop(AF_INET, &address.sin_addr, text.data(), text.size());
        return std::string(text.data()) + ':' + std::to_string(ntohs(address.sin_port));
    }
};

GameLink::GameLink(std::shared_ptr<Follower> follower, int port, bool anywhere) : follower_(std::move(follower))
{
    socket_ = socket(AF_INET, SOCK_DGRAM | SOCK_CLOEXEC, 0);
    sockaddr_in own{};
    own.sin_family = AF_INET;
    own.sin_port = htons(static_cast<std::uint16_t>(port));
    own.sin_addr.s_addr = htonl(anywhere ? INADDR_ANY : INADDR_LOOPBACK);
    if (socket_ < 0 || bind(socket_, reinterpret_cast<const sockaddr*>(&own), sizeof own) != 0) {
        const std::string why = std::strerror(errno);
        if (socket_ >= 0) {
            close(socket_);
        }
        throw FileError(portText(port) + ": cannot be listened to: " + why +
                        "; choose another one, or end the program that has it");
    }
    port_ = portOf(socket_);
    thread_ = std::thread([this] { listen(); });
}

GameLink::~GameLink()
{
    stop_ = true;
    thread_.join();
    close(socket_);
}

void GameLink::listen()
{
    std::vector<std::byte> bytes(mostOscBytes);
    while (!stop_) {
        pollfd waits{socket_, POLLIN, 0};
        if (poll(&waits, 1, look_ms) <= 0) {
            continue;
        }
        sockaddr_in from{};
        socklen_t size = sizeof from;
        const ssize_t got =
            recvfrom(socket_, bytes.data(), bytes.size(), MSG_DONTWAIT, reinterpret_cast<sockaddr*>(&from), &size);
        if (got < 0) {
            continue;
        }
        const auto connecting = follower_->receive(std::span(bytes.data(), static_cast<std::size_t>(got)));
        const auto now = std::chrono::steady_clock::now();
        const std::lock_guard lock(mutex_);
        forgetGone();
        const auto same = [&](const Game& game) {
            return game.from.sin_addr.s_addr == from.sin_addr.s_addr && game.from.sin_port == from.sin_port;
        };
        for (Game& game : games_) {
            game.heard = same(game) ? now : game.heard;
        }
        for (const GameWord& word : connecting) {
            if (word.kind == GameWord::Kind::bye) {
                std::erase_if(games_, same);
                continue;
            }
            sockaddr_in back = from;
            const bool named = word.number >= 1.0 && word.number <= 65'535.0;
            back.sin_port = named ? htons(static_cast<std::uint16_t>(word.number)) : from.sin_port;
            const bool known = std::any_of(games_.begin(), games_.end(), [&](const Game& game) {
                return same(game) && game.address.sin_port == back.sin_port;
            });
            if (!known && games_.size() < mostGames) {
                games_.push_back({from, back, now});
            }
        }
    }
}

void GameLink::forgetGone()
{
    const auto now = std::chrono::steady_clock::now();
    std::erase_if(games_, [&](const Game& game) { return std::chrono::duration<double>(now - game.heard).count() > gone_s; });
}

std::vector<std::string> GameLink::games() const
{
    const std::lock_guard lock(mutex_);
    std::vector<std::string> words;
    const auto now = std::chrono::steady_clock::now();
    for (const Game& game : games_) {
        if (std::chrono::duration<double>(now - game.heard).count() <= gone_s) {
            words.push_back(game.words());
        }
    }
    return words;
}

void GameLink::tell(const std::vector<OscMessage>& messages)
{
    const std::lock_guard lock(mutex_);
    forgetGone();
    if (games_.empty() || messages.empty()) {
        return;
    }
    const auto send = [&](std::span<const OscMessage> some) {
        const std::vector<std::byte> bytes = writeOscBundle(some, {});
        for (const Game& game : games_) {
            sendto(socket_, bytes.data(), bytes.size(), MSG_DONTWAIT, reinterpret_cast<const sockaddr*>(&game.address),
                   sizeof game.address);
        }
    };
    std::size_t first = 0;
    std::size_t size = 0;
    for (std::size_t i = 0; i < messages.size(); ++i) {
        const std::size_t one = writeOsc(messages[i]).size();
        if (size + one > bundleBytes && i > first) {
            send(std::span(messages).subspan(first, i - first));
            first = i;
            size = 0;
        }
        size += one;
    }
    send(std::span(messages).subspan(first));
}

GameSender::GameSender(const std::string& host, int port)
{
    addrinfo wanted{};
    wanted.ai_family = AF_INET;
    wanted.ai_socktype = SOCK_DGRAM;
    addrinfo* found = nullptr;
    const int failed = getaddrinfo(host.c_str(), std::to_string(port).c_str(), &wanted, &found);
    if (failed != 0) {
        throw FileError(host + ": no such machine: " + gai_strerror(failed) + "; see --to");
    }
    socket_ = socket(AF_INET, SOCK_DGRAM | SOCK_CLOEXEC, 0);
    const bool good = socket_ >= 0 && connect(socket_, found->ai_addr, found->ai_addrlen) == 0;
    freeaddrinfo(found);
    if (!good) {
        const std::string why = std::strerror(errno);
        if (socket_ >= 0) {
            close(socket_);
        }
        throw FileError(host + ", " + portText(port) + ": cannot be sent to: " + why);
    }
}

GameSender::~GameSender()
{
    close(socket_);
}

void GameSender::send(std::span<const std::byte> bytes) const
{
    // Nobody may be there yet: then it is lost, and the next one may not be.
    [[maybe_unused]] const ssize_t sent = ::send(socket_, bytes.data(), bytes.size(), MSG_DONTWAIT);
}

std::vector<std::byte> GameSender::receive() const
{
    std::vector<std::byte> bytes(mostOscBytes);
    const ssize_t got = recv(socket_, bytes.data(), bytes.size(), MSG_DONTWAIT);
    bytes.resize(got > 0 ? static_cast<std::size_t>(got) : 0);
    return bytes;
}

int GameSender::ownPort() const
{
    return portOf(socket_);
}

} // namespace stone
