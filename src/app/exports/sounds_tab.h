// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/exports/before_after.h"
#include "app/exports/export_parts.h"
#include "app/session/session.h"
#include "app/widgets/number_field.h"
#include "exports/prepared_sounds.h"

#include <QCheckBox>
#include <QComboBox>
#include <QFutureWatcher>
#include <QPushButton>
#include <QWidget>

#include <atomic>
#include <memory>
#include <vector>

namespace stone
{

/// Every file of the sounds as a game wants it: what each becomes is seen before, and how large it has become after. Written
/// one after another on a thread of the pool; it can be stopped between and within files.
class SoundsTab : public QWidget
{
    Q_OBJECT

public:
    SoundsTab(Session& session, Playback& playback, QWidget* parent = nullptr);
    /// Stops what is being written, and waits for it.
    ~SoundsTab() override;

private:
    /// What is being written, seen by both threads.
    struct Job {
        std::vector<PreparedSound> sounds;
        SoundTarget target;
        std::filesystem::path folder;
        std::atomic<bool> stopped = false;
        std::atomic<std::size_t> done = 0;
        std::vector<PreparedFacts> facts; ///< of those that are done; to be read when all is
        std::string trouble;              ///< the same
    };

    SoundTarget target() const;
    void show(const SoundTarget& target);
    void listKept();
    void keep();
    void forget();
    void list();
    void refresh();
    void write();
    void finished();

    Session& session_;
    QComboBox* as_; ///< the project's named ways, after the one that has no name
    QPushButton* forget_;
    QComboBox* format_;
    QComboBox* rate_;
    NumberField* quality_;
    QCheckBox* fold_;
    QCheckBox* trim_;
    QCheckBox* matched_;
    NumberField* loudness_;
    QComboBox* naming_;
    QTableWidget* list_;
    BeforeAfter* heard_;
    FolderRow* folder_;
    WritingRow* end_;
    std::vector<PreparedSound> sounds_;
    std::shared_ptr<Job> job_; ///< null: nothing is being written
    QFutureWatcher<void> writing_;
};

} // namespace stone
