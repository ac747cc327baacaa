#pragma once

#include "app/session/audition.h"
#include "app/session/scene_maker.h"
#include "app/session/session.h"
#include "app/session/walker.h"
#include "device/audio_device.h"
#include "world/replay.h"
#include "world/stance.h"

#include <QElapsedTimer>
#include <QFutureWatcher>
#include <QObject>
#include <QTimer>

#include <functional>
#include <memory>
#include <optional>
#include <utility>
#include <vector>

namespace stone
{

/// What has left the character and flies freely.
enum class Flight {
    none,
    ears, ///< with the picture
    eyes  ///< only the picture: somebody who looks round without moving the ears
};

/// Where the character is, what plays and through what. Moves the character, drives the live engine, and says sixty
/// times a second that time has passed. Window thread only.
class Playback : public QObject
{
    Q_OBJECT

public:
    /// Opens an output by its name as listed by outputs(); empty: the usual one. Throws std::runtime_error.
    using OpenDevice = std::function<std::unique_ptr<AudioDevice>(const QString& name, int rate, unsigned channels)>;

    /// Whether an output is there, by its name; empty: any. Asked on another thread.
    using FindOutput = std::function<bool(const QString& name)>;

    Playback(Session& session, OpenDevice open, QObject* parent = nullptr);
    ~Playback() override;

    // --- Listening ---
    bool listening() const { return device_ != nullptr; }
    void setListening(bool on);
    /// The name under which the running output is known, with what it is.
    QString outputName() const;
    /// How an output that is gone is looked for; outputIsThere(), if nothing else is said.
    void setFindOutput(FindOutput find) { findOutput_ = std::move(find); }
    bool audible() const { return device_ && device_->audible(); }
    void chooseOutput(const QString& name);
    /// The level for these ears alone; changes nothing in the project.
    double monitor_db() const { return monitor_db_; }
    void setMonitor_db(double level_db);
    /// What comes out. Takes a moment in which there is silence.
    Layout layout() const { return live_->layout(); }
    void setLayout(Layout layout);
    /// The ears that headphones are rendered for; null: the built-in head.
    const SharedHead& head() const { return head_; }
    void setHead(SharedHead head);
    /// All sounds from their beginning.
    void restart();

    // --- Auditions ---
    /// Plays a sound besides what is heard or, while nothing is, alone; from its beginning each time.
    void audition(const SoundId& sound);
    /// The same for one of its files, from a place in it, once or round and round.
    void auditionFile(const SoundId& sound, std::size_t file, double from_s, bool loop);
    void stopAudition();
    const std::optional<Audition>& auditioned() const { return audition_; }
    /// Where in one of its files a sound's copies are now, an audition included, seconds; nothing while not listening.
    std::vector<double> positionsOf(const SoundId& sound, std::size_t file);
    /// Hears all sounds without their filters and effects; changes nothing in the project.
    void setBare(bool bare);
    bool bare() const { return bare_; }
    /// Hears everything as if nobody looked anywhere; changes nothing in the project.
    void setGazing(bool on);
    bool gazing() const { return gazing_; }
    /// Hears everything as if no room answered; changes nothing in the project.
    void setAnswering(bool on);
    bool answering() const { return answering_; }
    /// Who is silent for these ears alone; changes nothing in the project. Forgotten when another project is opened.
    const ForEars& forEars() const { return forEars_; }
    void setForEars(ForEars forEars);
    /// Hears an emitter, and all who share its falloff, with other lanes than the project's; changes nothing in it.
    struct OtherFalloff {
        EmitterId emitter;
        std::vector<Lane> lanes;
    };
    const std::optional<OtherFalloff>& otherFalloff() const { return otherFalloff_; }
    void setOtherFalloff(std::optional<OtherFalloff> other);
    /// Whether anything is heard otherwise than the project has it.
    bool hearsOtherwise() const;
    /// Hears everything as the project has it.
    void hearAsItIs();
    /// The document as it is heard: without filters and effects, or without gazes, where one listens so.
    const std::shared_ptr<const Project>& shownProject() const { return shown_; }

    // --- The character ---
    const Pose& feet() const { return feet_; }
    Pose ears() const;
    /// All emitters of the level as they are heard now, in reach or not. While the engine runs it is what the engine heard;
    /// only what it did not ask for, or all while it does not run, is worked out here, once for each moment.
    const std::vector<Heard>& heard() const;
    /// The same of what is in reach alone, a Heard for each start.
    const std::vector<Heard>& heardInReach() const;
    /// What of each room is heard at the same moment.
    const std::vector<RoomHeard>& roomsHeard() const;
    /// Character, camera and ears, as the project's rig has them; whoever listens elsewhere is not in it.
    const Stance& stance() const { return stance_; }
    /// Listens as if the character stood elsewhere, until given nothing: for trying a distance without walking there.
    void listenFrom(const std::optional<Pose>& feet);
    bool elsewhere() const { return elsewhere_.has_value(); }
    /// Lets ears or eyes fly from where they are, or has them come back. The character stands meanwhile; what counts for
    /// zones and gaze is where it was.
    void fly(Flight what);
    Flight flight() const { return flight_; }
    /// From where the walk-through view looks: the rig's camera, or what flies.
    const Pose& eyes() const { return flight_ == Flight::none ? stance_.camera : flyer_; }
    /// Turns what is being looked with: the character, or what flies. Up and down as far as a neck goes.
    void lookBy(double right_deg, double up_deg);
    /// The head that is turned by hand: the character's, or what flies.
    const Pose& ownHead() const { return flight_ == Flight::none ? stance_.head : flyer_; }
    void turnHead(double heading_deg, double pitch_deg, double roll_deg);
    const Pose& characterEars() const { return stance_.ears; }
    /// Jumps there, without a walk between.
    void placeFeet(const Pose& feet);
    /// Carries it there by hand: the ears glide along.
    void carryFeet(const Pose& feet);
    void setQuarterTurns(bool on) { walker_.setQuarterTurns(on); }
    bool quarterTurns() const { return walker_.quarterTurns(); }
    void setWalkInput(const WalkInput& input);
    const Walker& walker() const { return walker_; }

    // --- Walks ---
    const WalkId& walk() const { return walkId_; }
    void chooseWalk(const WalkId& id);
    bool walking() const { return walking_; }
    double walk_s() const { return walk_s_; }
    double walkLength_s() const;
    void setWalking(bool on);
    void seekWalk(double time_s);

    /// What the engine measured; nothing while it does not run.
    const std::optional<Live::Snapshot>& snapshot() const { return snapshot_; }
    /// What reaches the ears now, of everything in the level. In a large level it is that of the edit before for some
    /// milliseconds, until sceneChanged(), with the same things under the same numbers.
    const HearingModel& hearing() const { return scene_->model; }
    /// The moment that is heard while listening, or that of a walk while it is scrubbed; otherwise all time, as if everything
    /// sounded.
    TimeSpan when() const;
    /// That moment, with what has happened by then. Valid until the next tick or edit.
    Moment moment() const;
    /// What has happened in the level by that moment; null while all time is shown.
    const WorldState* world() const { return world_.get(); }

    // --- What is done to the level by hand ---
    void send(const SignalId& signal);
    void setGameValue(const GameValueId& id, double number);
    void interact();
    /// Puts the character back to the start.
    void reset();
    /// The character jumps, if it stands and is walked by hand.
    void jump();
    /// Stops the level's time, lets it go on, or lets it go on for a moment.
    void setPaused(bool paused);
    bool paused() const { return snapshot_ && snapshot_->paused; }
    void stepTime(double seconds);

    Live& live() { return *live_; }
    AudioDevice* device() { return device_.get(); }
    /// Does what otherwise the timer does. For tests that move the clock by hand.
    void tick(double seconds);

signals:
    /// Time has passed: the transport and meters may show something else.
    void ticked();
    /// What is heard may have changed: the ears moved or, ten times a second while listening, sounds began or ended.
    /// For views that are costly to paint.
    void moved();
    /// What is heard of the document is known: later than the document, where the level is large.
    void sceneChanged();
    /// Listening began, ended, or goes through another output or layout.
    void listeningChanged();
    void walkChanged();
    /// Ears or eyes left the character or came back.
    void flightChanged();
    /// The output is gone or could not be opened: one line for the person, who may choose another.
    void outputFailed(const QString& message);
    /// An output that was gone is there again, and plays.
    void outputBack(const QString& name);

private:
    void followDocument();
    void updateScene();
    void takeScene(const std::shared_ptr<const Scene>& scene);
    void loadHeardFirst();
    std::shared_ptr<const Project> projectAsHeard() const;
    std::shared_ptr<const HeardStep> engineHeard() const;
    void look() const;
    void sendScene();
    void begin(Audition audition, double from_s);
    void updateLevel();
    void closeDevice();
    void tellOutput();
    bool openDevice(const QString& name);
    /// Empty when it is open; otherwise why it is not.
    QString tryDevice(const QString& name);
    void fallBack(const QString& message);
    void lookForOutput();
    void comeBack();
    void moveByHand(double seconds);
    void listen();
    /// Camera and ears go where the feet are; `jumped`: at once.
    void followFeet(double seconds, bool jumped);
    void announce();
    void fetchWorld();
    std::shared_ptr<const WorldState> replayed(double time_s);

    Session& session_;
    OpenDevice open_;
    std::unique_ptr<Live> live_;
    SharedHead head_;
    double monitor_db_ = 0.0;
    std::optional<Pose> elsewhere_;
    std::optional<Audition> audition_;
    int auditions_ = 0;
    SoundPositions positions_;
    std::unique_ptr<AudioDevice> device_;
    QString chosen_;
    bool bare_ = false;
    bool gazing_ = true;
    bool answering_ = true;
    std::shared_ptr<const Project> shown_; ///< the document, or what is heard of it while bare
    std::shared_ptr<const Scene> scene_;
    SceneMaker maker_;
    ForEars forEars_;
    std::optional<OtherFalloff> otherFalloff_;
    /// What was heard at the moment that was last looked at.
    struct Looked {
        std::shared_ptr<const Scene> scene;
        std::shared_ptr<const HeardStep> step; ///< from which it was taken; null: all of it was worked out
        Moment moment;
        std::vector<Heard> heard;
        HearScratch scratch;
        std::vector<Heard> inReach;
        HearScratch reachScratch;
        bool reached = false; ///< inReach is of the same moment
    };
    mutable Looked looked_;
    /// The scenes last compared by engineHeard(), and whether their things bear the same numbers.
    mutable std::pair<std::weak_ptr<const Scene>, std::weak_ptr<const Scene>> compared_;
    mutable bool sameNumbers_ = false;
    std::shared_ptr<const Scene> sent_; ///< scene_, with an audition while there is one
    Pose feet_;
    Walker walker_;
    Flight flight_ = Flight::none;
    Pose flyer_;
    Listener listener_;
    Stance stance_;
    Pose lastEars_;
    WalkId walkId_;
    bool walking_ = false;
    double walk_s_ = 0.0;
    bool scrubbed_ = false; ///< the character stands where the walk has put it
    std::unique_ptr<Replay> replay_;
    std::shared_ptr<const WorldState> world_; ///< of scene_
    std::optional<Live::Snapshot> snapshot_;
    std::shared_ptr<const Ground> ground_;
    LevelId levelShown_;
    std::filesystem::path pathShown_;
    Pose lastFeet_;
    QElapsedTimer sinceMoved_;
    QTimer timer_;
    QElapsedTimer sinceTick_;
    QTimer lookAgain_; ///< runs while the output that was chosen is gone
    QFutureWatcher<bool> outputSeen_;
    FindOutput findOutput_;
};

/// Outputs that can be chosen: sound cards by name, then the clock. And how they are opened.
QStringList outputs();
bool outputIsThere(const QString& name);
std::unique_ptr<AudioDevice> openOutput(const QString& name, int rate, unsigned channels);

} // namespace stone
