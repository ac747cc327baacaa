// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/session/playback.h"
#include "app/session/session.h"
#include "exports/prepared_sounds.h"

#include <QFutureWatcher>
#include <QLabel>
#include <QPushButton>
#include <QTemporaryDir>
#include <QWidget>

#include <optional>
#include <string>

namespace stone
{

/// Lets a file be heard as it is, and as it will be once it is prepared: at the same level, through the same output, as often
/// as one likes. Prepared on a thread of the pool into a folder that goes away with this.
class BeforeAfter : public QWidget
{
    Q_OBJECT

public:
    BeforeAfter(Session& session, Playback& playback, QWidget* parent = nullptr);
    /// Ends what is heard, and waits for what is being prepared.
    ~BeforeAfter() override;

    /// Which file, and what becomes of it; nothing: none is chosen.
    void choose(const std::optional<PreparedSound>& sound, const SoundTarget& target);

private:
    struct Made {
        std::filesystem::path file;
        PreparedFacts facts;
        std::string trouble; ///< empty: it worked
    };

    std::filesystem::path madeFolder() const;
    std::optional<std::size_t> fileIndex() const;
    void hearNow();
    void hearThen();
    void play();
    void made();
    void refresh();

    Session& session_;
    Playback& playback_;
    QLabel* words_;
    QPushButton* now_;
    QPushButton* then_;
    QTemporaryDir folder_;
    std::optional<PreparedSound> sound_;
    SoundTarget target_;
    int number_ = 0;           ///< of what was chosen: what is made of each has a folder of its own
    std::optional<Made> made_; ///< of what is chosen
    bool wanted_ = false;      ///< to be heard as soon as it is made
    QFutureWatcher<Made> making_;
};

} // namespace stone
