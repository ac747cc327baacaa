// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/blind/announcer.h"

#include <QStandardPaths>

namespace stone
{

namespace
{

constexpr const char* program = "espeak-ng";

} // namespace

Announcer::Announcer(QObject* parent) : QObject(parent)
{
}

Announcer::~Announcer()
{
    voice_.kill();
    voice_.waitForFinished();
}

bool Announcer::available()
{
    return !QStandardPaths::findExecutable(program).isEmpty();
}

void Announcer::say(const QString& words)
{
    last_ = words;
    if (!available()) {
        return;
    }
    if (voice_.state() != QProcess::NotRunning) {
        voice_.kill();
        voice_.waitForFinished();
    }
    voice_.start(program, {"--stdin"});
    voice_.write(words.toUtf8());
    voice_.closeWriteChannel();
}

} // namespace stone
