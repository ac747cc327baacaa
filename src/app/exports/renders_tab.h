// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/exports/export_parts.h"
#include "app/session/session.h"
#include "app/widgets/name_chooser.h"
#include "app/widgets/number_field.h"
#include "exports/rendered.h"

#include <QCheckBox>
#include <QComboBox>
#include <QFutureWatcher>

#include <atomic>
#include <memory>
#include <variant>
#include <vector>

namespace stone
{

/// What is rendered for a game that does less by itself: a walk in several layouts, what rooms answer, a sound from all round.
/// Which files that will be is seen before. Rendered one after another on a thread of the pool; it can be stopped.
class RendersTab : public QWidget
{
    Q_OBJECT

public:
    explicit RendersTab(Session& session, QWidget* parent = nullptr);
    /// Stops what is being rendered, and waits for it.
    ~RendersTab() override;

private:
    struct Layouts {
        Walk walk;
        std::vector<Layout> in;
    };
    struct Responses {
        Layout in;
    };
    struct Directions {
        Sound sound;
        int count;
        Layout in;
    };
    using What = std::variant<Layouts, Responses, Directions>;

    /// What is being rendered, seen by both threads.
    struct Job {
        What what;
        std::shared_ptr<const Project> project;
        LevelId level;
        std::shared_ptr<const Ground> ground;
        std::filesystem::path from; ///< the project's folder
        std::filesystem::path folder;
        std::shared_ptr<const MeasureStore> measures;
        int rate = 48'000;
        std::atomic<bool> stopped = false;
        std::atomic<int> thousandths = 0;
        std::vector<Rendered> files; ///< to be read when all is done
        std::string trouble;         ///< the same

        void run();
    };

    What what() const;
    std::vector<Layout> ticked() const;
    std::size_t chosen() const;
    std::vector<std::string> names() const;
    void list();
    void refresh();
    void write();
    void finished();

    Session& session_;
    QComboBox* kind_;
    NameChooser* of_; ///< the walk or the sound
    NumberField* count_;
    std::vector<QCheckBox*> layouts_; ///< by layout, for a walk
    QWidget* many_;                   ///< them all
    QComboBox* one_;                  ///< the layout of all else
    QComboBox* rate_;
    QTableWidget* list_;
    FolderRow* folder_;
    WritingRow* end_;
    std::shared_ptr<Job> job_; ///< null: nothing is being rendered
    QFutureWatcher<void> rendering_;
};

} // namespace stone
