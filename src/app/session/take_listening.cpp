// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/session/take_listening.h"

#include "project/file_error.h"

namespace stone
{

TakeListening::TakeListening(Output::Open open, QObject* parent) : QObject(parent), output_(std::move(open), this)
{
    connect(&output_, &Output::failed, this, &TakeListening::failed);
}

TakeListening::~TakeListening()
{
    output_.disconnect(this);
    output_.close();
}

QString TakeListening::begin(const Take& take, const std::shared_ptr<const Take>& other, double from_s)
{
    end();
    QString problem;
    try {
        player_ = std::make_unique<TakePlayer>(take.path());
    } catch (const FileError& error) {
        return QString::fromStdString(error.what());
    }
    if (other) {
        const auto aligned = std::make_shared<const TakeAlignment>(take, *other);
        try {
            player_->joinOther(
                other->path(), [aligned](double t_s) { return aligned->inSecond_s(t_s); },
                [aligned](double t_s) { return aligned->inFirst_s(t_s); });
        } catch (const FileError& error) {
            problem = QString::fromStdString(error.what());
        }
    }
    other_ = other_ && player_->hasOther();
    player_->hearOther(other_);
    player_->seek(from_s);
    output_.open(*player_);
    return problem;
}

void TakeListening::end()
{
    output_.close();
    player_.reset();
}

void TakeListening::seek(double t_s)
{
    if (player_) {
        player_->seek(t_s);
    }
}

void TakeListening::hearOther(bool other)
{
    other_ = other;
    if (player_) {
        player_->hearOther(other);
    }
}

} // namespace stone
