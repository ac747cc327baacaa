// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/session/audition.h"
#include "app/session/cost_history.h"
#include "app/session/heard_now.h"
#include "app/session/otherwise.h"
#include "app/session/output.h"
#include "app/session/player.h"
#include "app/session/scene_maker.h"
#include "app/session/session.h"
#include "app/session/voice_history.h"
#include "app/session/walk_recorder.h"
#include "follow/follower.h"
#include "world/replay.h"

#include <QElapsedTimer>
#include <QObject>
#include <QTimer>

#include <memory>
#include <optional>
#include <vector>

namespace stone
{

class TakeDesk;

/// Where the character is, what plays and through what. Moves the character, drives the live engine, and says sixty
/// times a second that time has passed. Window thread only.
class Playback : public QObject
{
    Q_OBJECT

public:
    Playback(Session& session, Output::Open open, QObject* parent = nullptr);
    ~Playback() override;

    // --- Listening ---
    bool listening() const { return output_.isOpen(); }
    void setListening(bool on);
    const Output& output() const { return output_; }
    Output& output() { return output_; }
    bool audible() const { return output_.audible(); }
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
    /// Plays bursts of noise instead of the level, to try the output: from one side, degrees clockwise from ahead; without one
    /// they go round. The level is back after endTrial().
    void tryOutput(std::optional<double> from_deg);
    void endTrial();
    bool tryingOutput() const { return trial_.has_value(); }

    // --- Auditions ---
    /// Plays a sound besides what is heard or, while nothing is, alone; from its beginning each time.
    void audition(const SoundId& sound, Rounds rounds = Rounds::asTheSound);
    /// The same, or ends that where it is this one that is played.
    void toggleAudition(const SoundId& sound, Rounds rounds = Rounds::asTheSound);
    bool auditions(const SoundId& sound) const { return audition_ && audition_->sound == sound; }
    /// The same for one of its files, from a place in it, once or round and round.
    void auditionFile(const SoundId& sound, std::size_t file, double from_s, bool loop);
    /// The same for a file that was made of it, from its beginning, so much louder.
    void auditionInstead(const SoundId& sound, std::size_t file, bool loop, const std::filesystem::path& instead, double by_db);
    void stopAudition();
    const std::optional<Audition>& auditioned() const { return audition_; }
    /// Where in one of its files a sound's copies are now, an audition included, seconds; nothing while not listening.
    std::vector<double> positionsOf(const SoundId& sound, std::size_t file);
    /// For how long a sound has been playing, seconds: an audition of it, else the loudest that plays it; nothing: it does not.
    std::optional<double> playedFor_s(const SoundId& sound) const;
    /// What is heard otherwise than the project has it; changes nothing in the project.
    const Otherwise& otherwise() const { return otherwise_; }
    void setOtherwise(Otherwise otherwise);
    /// The same, by what is to become of it.
    template <class Change> void listenOtherwise(Change&& change)
    {
        Otherwise next = otherwise_;
        change(next);
        setOtherwise(std::move(next));
    }
    /// Who is silent for these ears alone; changes nothing in the project. Forgotten when another project is opened.
    const ForEars& forEars() const { return forEars_; }
    void setForEars(ForEars forEars);
    /// What silences or singles out an emitter, itself or its family: in the project, or for these ears alone.
    struct Marked {
        bool muted = false;
        bool solo = false;
        bool hushed = false;
    };
    Marked marked(const Emitter& emitter) const;
    /// Starts emitters from their beginning, or stops them as they fade out, whatever their rules say. From then on only hands
    /// and rules move them, until it is heard as it is again.
    void startByHand(const std::set<EmitterId>& which) { moveByHand(which, true); }
    void stopByHand(const std::set<EmitterId>& which) { moveByHand(which, false); }
    /// Whether anything is heard otherwise than the project has it.
    bool hearsOtherwise() const;
    /// Hears everything as the project has it.
    void hearAsItIs();
    /// The document as it is heard, where one listens otherwise.
    const std::shared_ptr<const Project>& shownProject() const { return shown_; }

    // --- The character ---
    const Pose& feet() const { return player_.feet(); }
    Pose ears() const;
    /// All emitters of the level as they are heard now, in reach or not. While the engine runs it is what the engine heard;
    /// only what it did not ask for, or all while it does not run, is worked out here, once for each moment.
    const std::vector<Heard>& heard() const;
    /// One of them, at less cost where it is all that is wanted. `index`: into the level's emitters.
    const Heard& heardOf(std::uint32_t index) const;
    /// The same of what is in reach alone, a Heard for each start.
    const std::vector<Heard>& heardInReach() const;
    /// What of each room is heard at the same moment.
    const std::vector<RoomHeard>& roomsHeard() const;
    /// Character, camera and ears, as the project's rig has them; whoever listens elsewhere is not in it.
    const Stance& stance() const { return player_.stance(); }
    /// Listens as if the character stood elsewhere, until given nothing: for trying a distance without walking there.
    void listenFrom(const std::optional<Pose>& feet);
    bool elsewhere() const { return elsewhere_.has_value(); }
    /// Lets ears or eyes fly from where they are, or has them come back. The character stands meanwhile; what counts for
    /// zones and gaze is where it was.
    void fly(Flight what);
    Flight flight() const { return player_.flight(); }
    /// From where the walk-through view looks: the rig's camera, or what flies.
    const Pose& eyes() const { return player_.eyes(); }
    /// Turns what is being looked with: the character, or what flies. Up and down as far as a neck goes.
    void lookBy(double right_deg, double up_deg);
    /// The head that is turned by hand: the character's, or what flies.
    const Pose& ownHead() const { return player_.ownHead(); }
    void turnHead(double heading_deg, double pitch_deg, double roll_deg);
    const Pose& characterEars() const { return player_.stance().ears; }
    /// Jumps there, without a walk between.
    void placeFeet(const Pose& feet);
    /// Carries it there by hand: the ears glide along.
    void carryFeet(const Pose& feet);
    void setQuarterTurns(bool on) { player_.walker().setQuarterTurns(on); }
    bool quarterTurns() const { return player_.walker().quarterTurns(); }
    void setWalkInput(const WalkInput& input);
    const Walker& walker() const { return player_.walker(); }

    // --- Walks ---
    const WalkId& walk() const { return walkId_; }
    void chooseWalk(const WalkId& id);
    bool walking() const { return walking_; }
    double walk_s() const { return walk_s_; }
    double walkLength_s() const;
    void setWalking(bool on);
    void seekWalk(double time_s);
    /// Records where the character is walked, and what is sent and set meanwhile, until it is called again: then that is a walk
    /// of the level, selected.
    void setRecording(bool on);
    bool recording() const { return recorder_.recording(); }
    /// For how long it has been recording, seconds.
    double recorded_s() const { return recorder_.seconds(); }

    /// What the copies of sounds did in the last minute of listening.
    const VoiceHistory& voiceHistory() const { return voiceHistory_; }
    /// Tells somebody of each step of the engine, until there is another engine; null: nobody.
    void tell(std::shared_ptr<StepListener> listener);
    bool tells(const std::shared_ptr<StepListener>& listener) const { return told_.lock() == listener && listener; }
    /// Shows what was heard at another time, with the character where it was then, instead of what is heard now: listening
    /// ends. Null: what is heard now again.
    void showTaken(std::shared_ptr<const HeardStep> step, const Pose& feet);
    /// Follows somebody else's game in whatever engine there is; null: nobody any more.
    void follow(std::shared_ptr<Leader> leader);
    bool follows() const { return leader_ != nullptr; }
    /// What is there of a game beside the document, and what of it the game moves; see withThings().
    void setThings(const GameThings& things);
    const std::shared_ptr<const Scene>& shownScene() const { return scene_; }
    /// Takes of what plays.
    TakeDesk& takes() { return *takes_; }
    /// What the last minute of listening has cost.
    const CostHistory& costHistory() const { return costHistory_; }
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
    /// Sets something off again and again; with a count of 0 ends what is still to come.
    void burst(const Burst& burst);
    /// Puts the character back to the start; where it stands there, to where it was put back from.
    void reset();
    /// Puts the character somewhere, with the level as it begins.
    void beginAnew(const Pose& feet);
    /// The character jumps, if it stands and is walked by hand.
    void jump();
    /// Stops the level's time, lets it go on, or lets it go on for a moment.
    void setPaused(bool paused);
    bool paused() const { return snapshot_ && snapshot_->paused; }
    void stepTime(double seconds);

    Live& live() { return *live_; }
    AudioDevice* device() { return output_.device(); }
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
    SceneAsk asked() const;
    void loadHeardFirst();
    std::shared_ptr<const Project> projectAsHeard() const;
    std::shared_ptr<const HeardStep> engineHeard() const;
    void look() const;
    void hearAnew();
    void sendScene();
    void begin(Audition audition, double from_s);
    void updateLevel();
    void tellOutput();
    void noteOver();
    void moveByHand(double seconds);
    void moveByHand(const std::set<EmitterId>& which, bool starts);
    void listen();
    void followFeet(double seconds, bool jumped);
    void announce();
    void putFeet(const Pose& feet, bool jumped);
    void fetchWorld();
    std::shared_ptr<const WorldState> replayed(double time_s);
    const Walk* chosenWalk() const { return session_.level().walks.find(walkId_); }

    Session& session_;
    std::unique_ptr<Live> live_;
    Output output_;
    SharedHead head_;
    double monitor_db_ = 0.0;
    std::optional<Pose> elsewhere_;
    /// An output that is tried: the scene that plays for it, for how long, and from where.
    struct Trial {
        std::shared_ptr<const Scene> scene;
        std::optional<double> from_deg;
        double seconds = 0.0;
        bool alone = false; ///< nobody was listening before
    };
    std::optional<Trial> trial_;
    std::optional<Audition> audition_;
    int auditions_ = 0;
    SoundPositions positions_;
    Otherwise otherwise_;
    std::shared_ptr<const Project> shown_; ///< the document, or as it is heard
    std::shared_ptr<const Scene> scene_;
    SceneMaker maker_;
    ForEars forEars_;
    mutable HeardNow heardNow_;
    std::shared_ptr<const Scene> sent_; ///< scene_, with an audition while there is one
    Player player_;
    Pose lastEars_;
    std::optional<Pose> beforeReset_;
    WalkId walkId_;
    bool walking_ = false;
    double walk_s_ = 0.0;
    WalkRecorder recorder_;
    bool scrubbed_ = false; ///< the character stands where the walk has put it
    std::unique_ptr<Replay> replay_;
    std::shared_ptr<const WorldState> world_; ///< of scene_
    std::optional<Live::Snapshot> snapshot_;
    std::weak_ptr<StepListener> told_;
    std::shared_ptr<Leader> leader_;
    GameThings things_;
    std::shared_ptr<const HeardStep> taken_; ///< shown instead of what is heard now
    std::unique_ptr<TakeDesk> takes_;
    VoiceHistory voiceHistory_;
    CostHistory costHistory_;
    /// The highest peak beyond full scale since the last edit.
    struct Over {
        double db = 0.0;
        double at_s = 0.0;
        std::string loudest;
    };
    Over over_;
    LevelId levelShown_;
    std::filesystem::path pathShown_;
    Pose lastFeet_;
    QElapsedTimer sinceMoved_;
    QTimer timer_;
    QElapsedTimer sinceTick_;
};

} // namespace stone
