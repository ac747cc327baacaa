// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/session/examiner.h"

#include "app/session/work_pool.h"

#include <QtConcurrent>

#include <utility>

namespace stone
{

namespace
{

constexpr int settled_ms = 150;

} // namespace

Examiner::Examiner(SoundBank& bank, std::function<Question()> ask, QObject* parent)
    : QObject(parent), bank_(bank), ask_(std::move(ask))
{
    soon_.setSingleShot(true);
    soon_.setInterval(settled_ms);
    connect(&soon_, &QTimer::timeout, this, &Examiner::look);
    connect(&watcher_, &QFutureWatcherBase::finished, this, &Examiner::done);
}

Examiner::~Examiner()
{
    watcher_.waitForFinished();
}

void Examiner::forget()
{
    forgotten_ = watcher_.isRunning();
    findings_.clear();
    emit changed();
}

void Examiner::look()
{
    if (watcher_.isRunning()) {
        soon_.start(); // what is being looked at is not the latest any more, but whoever looks cannot be stopped
        return;
    }
    watcher_.setFuture(QtConcurrent::run(&workPool(), [&bank = bank_, question = ask_()] {
        const auto resolve = [&](const std::string& file) { return question.files.resolve(file); };
        bank.letGoBut(filesOf(*question.project, resolve));
        return findAll(
            {*question.project, question.notices, question.geometry, bank, resolve, Loading::later, question.output});
    }));
}

void Examiner::done()
{
    if (std::exchange(forgotten_, false)) {
        return;
    }
    findings_ = watcher_.result();
    emit changed();
}

} // namespace stone
