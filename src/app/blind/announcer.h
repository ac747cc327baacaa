// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QElapsedTimer>
#include <QObject>
#include <QProcess>
#include <QString>

namespace stone
{

/// Says words aloud by the espeak-ng program, where it is installed. What comes while something is said takes its place.
class Announcer : public QObject
{
    Q_OBJECT

public:
    explicit Announcer(QObject* parent = nullptr);
    ~Announcer() override;

    /// Whether there is anything to speak with.
    static bool available();
    void say(const QString& words);
    /// What was said last, whether or not there is a voice.
    const QString& last() const { return last_; }

private:
    QProcess voice_;
    QString last_;
};

} // namespace stone
