// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/session/output.h"

#include "app/session/work_pool.h"

#include <QtConcurrent>

#include <algorithm>
#include <stdexcept>

namespace stone
{

namespace
{

constexpr std::size_t blockFrames = 512;
constexpr int lookAgain_ms = 2000;
const QString clockName = QStringLiteral("No sound card: clock only");

QString nameOf(const SoundCard& card)
{
    return QString::fromStdString(card.name + " (" + card.api + ")");
}

} // namespace

QStringList outputs()
{
    QStringList names;
    for (const SoundCard& card : soundCards()) {
        names << nameOf(card);
    }
    return names << clockName;
}

bool outputIsThere(const QString& name)
{
    const std::vector<SoundCard> cards = soundCards();
    return std::any_of(cards.begin(), cards.end(),
                       [&](const SoundCard& card) { return name.isEmpty() || nameOf(card) == name; });
}

std::unique_ptr<AudioDevice> openOutput(const QString& name, int rate, unsigned channels)
{
    if (name != clockName) {
        const std::vector<SoundCard> cards = soundCards();
        auto card = std::find_if(cards.begin(), cards.end(), [&](const SoundCard& c) { return nameOf(c) == name; });
        if (card == cards.end() && !name.isEmpty()) {
            throw std::runtime_error(name.toStdString() + " is not there any more; choose another output");
        }
        if (card == cards.end()) {
            card = std::find_if(cards.begin(), cards.end(), [](const SoundCard& c) { return c.usual; });
        }
        if (card != cards.end()) {
            return openSoundCard(*card, rate, blockFrames, channels);
        }
    }
    return openClock(rate, blockFrames);
}

Output::Output(Open open, QObject* parent) : QObject(parent), open_(std::move(open)), find_(outputIsThere)
{
    lookAgain_.setInterval(lookAgain_ms);
    connect(&lookAgain_, &QTimer::timeout, this, &Output::lookForIt);
    connect(&seen_, &QFutureWatcherBase::finished, this, &Output::comeBack);
}

Output::~Output()
{
    if (device_) {
        device_->stop();
    }
}

void Output::choose(const QString& name)
{
    chosen_ = name;
    lookAgain_.stop();
}

void Output::open(Played& played)
{
    played_ = &played;
    lookAgain_.stop();
    if (!openNamed(chosen_)) {
        openNamed(clockName);
    }
}

void Output::close()
{
    lookAgain_.stop();
    stop();
    played_ = nullptr;
}

void Output::stop()
{
    if (device_) {
        device_->stop();
        device_.reset();
    }
    if (played_ != nullptr) {
        played_->stop();
    }
    emit closed();
}

/// Empty when it is open; otherwise why it is not.
QString Output::tryNamed(const QString& name)
{
    stop();
    try {
        device_ = open_(name, played_->rate(), static_cast<unsigned>(played_->channels()));
        // Something is ready before the device asks for it.
        played_->pump();
        device_->start(*played_);
        if (!device_->movedByHand()) {
            played_->start();
        }
        return {};
    } catch (const std::exception& error) {
        stop();
        return QString::fromStdString(error.what());
    }
}

bool Output::openNamed(const QString& name)
{
    const QString error = tryNamed(name);
    if (!error.isEmpty()) {
        emit failed(error);
    }
    return error.isEmpty();
}

void Output::watch()
{
    if (device_ && device_->lost()) {
        const QString message =
            tr("%1 has stopped answering. Everything goes on without sound; choose an output to hear it again.").arg(name());
        openNamed(clockName);
        lookAgain_.start();
        emit failed(message);
        emit changed();
    }
}

/// Looks for the output that was chosen, on another thread: a sound server that hangs would keep the window waiting.
void Output::lookForIt()
{
    if (!isOpen() || audible()) {
        lookAgain_.stop();
        return;
    }
    if (!seen_.isRunning()) {
        seen_.setFuture(QtConcurrent::run(&workPool(), [find = find_, wanted = chosen_] { return find(wanted); }));
    }
}

void Output::comeBack()
{
    if (!seen_.result() || !isOpen() || !lookAgain_.isActive()) {
        return;
    }
    if (tryNamed(chosen_).isEmpty()) {
        lookAgain_.stop();
        emit back(name());
    } else {
        openNamed(clockName);
    }
    emit changed();
}

} // namespace stone
