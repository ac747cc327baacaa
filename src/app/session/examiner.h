// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "analysis/findings.h"
#include "app/session/project_files.h"

#include <QFutureWatcher>
#include <QObject>
#include <QTimer>

#include <functional>
#include <memory>
#include <optional>
#include <vector>

namespace stone
{

/// Looks for findings on a thread of the pool, a moment after the last change; what has changed while it looks is looked at
/// once more. Belongs to the window's thread.
class Examiner : public QObject
{
    Q_OBJECT

public:
    /// All that is looked at, kept alive for as long as that takes.
    struct Question {
        std::shared_ptr<const Project> project;
        std::vector<ReadNotice> notices;
        std::vector<LevelGeometry> geometry;
        ProjectFiles files;
        std::optional<OutputInUse> output;
    };

    /// `ask`: what is to be looked at now. The bank must outlive the examiner.
    Examiner(SoundBank& bank, std::function<Question()> ask, QObject* parent);
    /// Waits for what is being looked at.
    ~Examiner() override;

    void lookSoon() { soon_.start(); }
    /// Another project: nothing is known of it yet, and what is being looked at says nothing of it.
    void forget();
    /// Whether more may be found than is known.
    bool looking() const { return soon_.isActive() || watcher_.isRunning(); }
    const std::vector<Finding>& findings() const { return findings_; }

signals:
    void changed();

private:
    void look();
    void done();

    SoundBank& bank_;
    std::function<Question()> ask_;
    QTimer soon_;
    QFutureWatcher<std::vector<Finding>> watcher_;
    /// Whether what is being looked at is of the project before.
    bool forgotten_ = false;
    std::vector<Finding> findings_;
};

} // namespace stone
