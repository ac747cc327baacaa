// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/session/project_files.h"
#include "engine/scene.h"

#include <QFutureWatcher>
#include <QObject>
#include <QThreadPool>

#include <functional>
#include <memory>

namespace stone
{

/// Whether everything that has a number in a scene bears the same one in another: emitters, zones, rooms and openings of the
/// level, and of the project what lanes and sounds refer to. What is shown of one can then be shown with the other.
bool sameNumbers(const Project& then, const Level& levelThen, const Project& now, const Level& levelNow);

/// What a scene is made of. Any thread may make it.
struct SceneAsk {
    std::shared_ptr<const Project> project;
    LevelId level;
    ProjectFiles files;
    std::shared_ptr<const Ground> ground;
    SharedHead head;
    ForEars forEars;

    /// `before`: the scene before an edit, of which much can be taken over; may be null.
    std::shared_ptr<const Scene> make(SoundBank& bank, const Scene* before) const;
};

/// Makes scenes of large levels on another thread, so that the window goes on meanwhile: one at a time, and of what was asked
/// for while one was being made only the latest. Window thread only.
class SceneMaker : public QObject
{
    Q_OBJECT

public:
    /// Makes the scene of a document; on another thread. `before`: the scene before it, of which much can be taken over.
    using Make = std::function<std::shared_ptr<const Scene>(const Scene* before)>;

    explicit SceneMaker(QObject* parent = nullptr);
    ~SceneMaker() override;

    /// Whether a level's scene takes so long that another thread is worth it: some 300 things, a millisecond.
    static bool worthwhile(const Level& level);

    /// `before`: the scene that is shown now.
    void make(Make what, std::shared_ptr<const Scene> before);
    /// What is being made or waits is not wanted any more: another scene was made meanwhile.
    void forget();

signals:
    void made(const std::shared_ptr<const stone::Scene>& scene);

private:
    void begin(Make what, std::shared_ptr<const Scene> before);
    void take();

    QThreadPool thread_; ///< of its own: what takes seconds elsewhere would keep it waiting
    QFutureWatcher<std::shared_ptr<const Scene>> making_;
    bool underWay_ = false; ///< until its result was taken
    bool wanted_ = false;   ///< that result
    Make next_;             ///< empty: nothing waits
};

} // namespace stone
