// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "analysis/findings.h"
#include "app/session/examiner.h"
#include "app/session/level_loader.h"
#include "app/session/project_files.h"
#include "app/session/selection.h"
#include "app/session/sound_watch.h"
#include "app/session/way_finder.h"
#include "media/found_again.h"
#include "media/sound_bank.h"
#include "project/edit.h"
#include "project/history.h"
#include "project/journal.h"

#include <QObject>
#include <QString>
#include <QStringList>
#include <QTimer>

#include <atomic>
#include <filesystem>
#include <functional>
#include <memory>
#include <set>

namespace stone
{

/// The open project: its document and history, what is selected in it, its sounds and geometry in memory, and what was
/// found in it. Views show it, ask it for changes and hear of them by its signals. Window thread only.
class Session : public QObject
{
    Q_OBJECT

public:
    /// Sounds are kept at `rate`. `state`: where what is not saved is kept in case the program is killed; see stateFolder().
    /// Empty: nowhere. `cache`: where what was measured of sounds is kept; see cacheFolder(). Empty: nowhere.
    explicit Session(int rate, std::filesystem::path state = {}, const std::filesystem::path& cache = {},
                     QObject* parent = nullptr);
    ~Session() override;

    /// What is to become of a thing of the document.
    template <class Thing> using Change = std::function<void(Thing&)>;

    // --- The document ---
    /// As it is, or as it was where one looks back.
    const Project& project() const { return seen_ ? *seen_->document : *history_.current(); }
    std::shared_ptr<const Project> document() const { return seen_ ? seen_->document : history_.current(); }
    const Level& level() const;
    const LevelId& levelId() const { return levelId_; }
    void showLevel(const LevelId& id);

    /// One step of the history; steps of one `gesture` in a row become one. The name says what happened.
    void edit(Project next, const QString& name, const QString& gesture = {});
    void endGesture() { history_.endGesture(); }
    void undo();
    void redo();
    QString undoName() const;
    QString redoName() const;
    bool changed() const { return history_.changed(); }
    const History& history() const { return history_; }

    // --- Before and after ---
    /// A state of the document that was kept to be compared with.
    struct KeptState {
        QString name;
        std::shared_ptr<const Project> document;
    };
    /// Keeps the document as it is now; until another project is opened.
    void keepState(const QString& name);
    /// What before() goes back to: the state that was kept last, or the last save.
    KeptState before() const;
    /// Shows and plays another state instead of the document, until given nothing. Nothing can be edited meanwhile; undoing and
    /// saving come back to the document first.
    void lookAt(std::optional<KeptState> state);
    /// Which it is; nothing: the document as it is.
    const std::optional<KeptState>& seen() const { return seen_; }

    // --- Files ---
    /// The document's path; empty until it is saved.
    const std::filesystem::path& path() const { return path_; }
    std::filesystem::path folder() const { return files_.folder(); }
    /// Where what is not saved is kept; see stateFolder().
    const std::filesystem::path& ownState() const { return state_; }
    void startNew();
    /// Throws FileError and leaves what is open as it is.
    void open(const std::filesystem::path& path);
    /// Copies what lies outside the folder into it, then writes. Throws FileError.
    void saveAs(const std::filesystem::path& path);

    /// What somebody else wrote into the open document since it was opened or saved here; nothing: nobody did. Throws FileError
    /// where it cannot be read.
    std::optional<Project> changedOnDisk() const;
    /// What was last common to the document here and the one on the disk.
    const Project& common() const { return *common_; }
    /// Takes what is on the disk as known: the next save writes over it.
    void acceptDisk(const Project& onDisk) { common_ = std::make_shared<const Project>(onDisk); }

    /// What windows that were killed had not saved.
    std::vector<LeftBehind> leftBehind() const { return stone::leftBehind(state_); }
    /// Opens what was left behind, with all that was not saved as one step of the history that can be undone.
    void bringBack(const LeftBehind& left);
    /// The last saves of the open document, newest first, and one of them again, as a step of the history.
    std::vector<KeptSave> earlierSaves() const { return keptSaves(state_, path_); }
    void takeEarlierSave(const KeptSave& save, const QString& when);
    /// Until all that is not saved is in the journal.
    void flushJournal() { journal_.flush(); }

    // --- Sounds ---
    SoundBank& bank() { return bank_; }
    std::filesystem::path resolve(const std::string& file) const { return files_.resolve(file); }
    /// The same for another thread: a copy knows what this one knew.
    const ProjectFiles& files() const { return files_; }
    SoundBank::Entry soundEntry(const Sound& sound, std::size_t file = 0) const;
    /// Adds sound files, each once, and says which. Files outside the project's folder are copied into it; before the
    /// project has a folder they stay where they are. One step of the history. Errors come by failed().
    std::vector<SoundId> addSounds(const QStringList& files);
    /// More files for a sound.
    void addFiles(const SoundId& id, const QStringList& files);
    /// Puts a copy with one channel beside a sound's file, and takes it instead. Errors come by failed().
    void foldSound(const SoundId& id, std::size_t which);
    void relocateSound(const SoundId& id, std::size_t which, const QString& file);
    /// The files of sounds that are not where the document says, with what was in them as far as it is known.
    std::vector<MissingFile> missingSounds() const;
    /// Takes in what was found of them, as one step of the history. Errors come by failed().
    void takeFound(const std::vector<FoundAgain>& found);
    /// Copies a file of the document once more from where it came: it is another one there. Errors come by failed().
    void takeAnew(const std::string& file);
    /// Brings a file that a person picked into the project's folder, with what a level needs beside it: the text for the
    /// document. Throws FileError.
    QString takeIn(const QString& file, const QString& subfolder);

    // --- Geometry ---
    const LoadedLevel& loadedLevel() const { return geometry_.loaded(); }
    bool loadingLevel() const { return geometry_.loading(); }
    /// Whether ways round walls are being looked for; Roamers go straight until then.
    /// The edges of the level's floor; null where it has none, and until they have been found.
    std::shared_ptr<const FloorEdges> floorEdges() const;
    bool findingWays() const { return ways_.looking(); }
    /// Names of the parts of the level that have surfaces.
    QStringList solidNodes() const { return geometry_.solidNodes(); }

    // --- Selection ---
    /// The selected emitters; none where something else is selected.
    const std::set<EmitterId>& selection() const;
    /// The one selected emitter, or the one that was selected last of several; null when there is none.
    const Emitter* primary() const;
    /// Its place among the level's emitters; -1 when there is none.
    int primaryIndex() const;
    /// The emitter on the bench: the pinned one, else primary(); null when there is none.
    const Emitter* subject() const;
    int subjectIndex() const;
    /// The selected emitters and the one on the bench: whom solo, hush and hands reach.
    std::set<EmitterId> inHand() const;
    /// Keeps what is on the bench there, whatever is selected.
    bool pinned() const { return !pinned_.empty(); }
    void pin(bool on);
    void select(std::set<EmitterId> ids, const EmitterId& primary);
    void selectOnly(const EmitterId& id) { select({id}, id); }
    void selectNone() { select({}, {}); }

    /// The selected zone, room, opening, walk or plant rule; null when it is something else that is selected.
    template <class Thing> const Thing* selected() const;
    template <class Thing> void selectThing(const decltype(Thing::id)& id);
    /// Selects the rule that an emitter is a copy of, and of its copies this one; false when it is none.
    bool selectCopy(const EmitterId& id);
    /// Which copy of the selected rule is in hand; empty: none.
    const EmitterId& copyInHand() const { return copy_; }
    /// Whether anything is selected that is no emitter.
    bool thingSelected() const;

    // --- Edits that several views make ---
    /// Puts an emitter down and selects it. `emitter` is set up as it is to be; it gets an id, a name unlike the others', and a
    /// falloff if it has none.
    EmitterId addEmitter(Emitter emitter);
    EmitterId addEmitter(const SoundId& sound, const Vec3& at);
    /// Adds a zone, room, opening, walk or plant rule, likewise, and selects it.
    template <class Thing> decltype(Thing::id) addThing(Thing what);
    /// Changes the one that is selected. `what` happened to it, for the history.
    template <class Thing> void editThing(const QString& what, const QString& gesture, const Change<Thing>& change);
    /// Several at once, without ids, as one step of the history.
    void addSpaces(const std::vector<Room>& rooms, const std::vector<Opening>& openings, const QString& name);
    void deleteSelected();
    void duplicateSelected();
    void moveSelected(const Vec3& by, const QString& gesture);
    /// Changes what is on the bench.
    void editSubject(const QString& name, const QString& gesture, const Change<Emitter>& change);
    /// The same for everything that is selected with it.
    void editSelected(const QString& name, const QString& gesture, const Change<Emitter>& change);

    /// Changes a sound. `what` happened to it, for the history.
    void editSound(const SoundId& id, const QString& what, const QString& gesture, const Change<Sound>& change);
    /// The same for a family.
    void editFamily(const FamilyId& id, const QString& what, const QString& gesture, const Change<Family>& change);

    const std::vector<Finding>& findings() const { return examiner_.findings(); }
    /// Whether more may be found than findings() has.
    bool examining() const { return examiner_.looking(); }
    /// How it is listened to, for findings; nothing: not at all.
    void setOutput(const std::optional<OutputInUse>& output);

signals:
    /// Another project is open. Said before its document is shown: what was kept about the one before means nothing any more.
    void adopted();
    /// The document is another value; views read it again.
    void documentChanged();
    /// Another level is shown, or its geometry has come.
    void levelChanged();
    /// The geometry is another than before: its file was changed on the disk.
    void geometryReloaded();
    /// Roamers' ways round walls, or what bends sound round corners, were found.
    void waysFound();
    void edgesFound();
    void selectionChanged();
    /// A sound came into memory or could not be read.
    void soundsChanged();
    void findingsChanged();
    /// A sound's file is another one on the disk, and is read again; what plays of it goes on meanwhile.
    void soundReread(const QString& file);
    /// A sound's file is another one where it was copied from: it can be taken anew.
    void sourceChanged(const QString& file);
    /// Where the document is saved, or whether it is, changed.
    void fileChanged();
    /// What is not saved cannot be kept for after a crash, or can again (empty).
    void keepingTroubled(const QString& why);
    /// Something could not be done: one line for the person.
    void failed(const QString& message);

private:
    /// The document with what a person picked elsewhere, and what lies in its folder, copied to where it will lie.
    Project broughtTo(const std::filesystem::path& target) const;
    void adopt(std::shared_ptr<const Project> document, std::filesystem::path path, std::vector<ReadNotice> notices);
    void afterChange();
    void keepJournal();
    void watchAnew(const std::filesystem::path& document);
    void watchSoon();
    void watchSounds();
    Examiner::Question examined() const;
    bool dropGone();
    template <class Thing> void deleteThing(const Thing& gone);
    template <class Thing> void duplicateThing(const Thing& of);
    void deleteEmitters();
    void duplicateEmitters();
    int indexOf(const EmitterId& id) const;

    const std::filesystem::path state_;
    Journal journal_;
    std::shared_ptr<const Project> common_;  ///< as last read from or written to path_
    std::atomic<bool> toldOfSounds_ = false; ///< soundsChanged() is on its way
    mutable SoundBank bank_;                 ///< reading a file on demand changes nothing that is seen
    History history_;
    std::optional<KeptState> kept_;
    std::optional<KeptState> seen_;
    Selection selectedBefore_; ///< when one began to look back
    std::filesystem::path path_;
    std::vector<ReadNotice> notices_;
    LevelId levelId_;
    Selection selected_;
    EmitterId copy_; ///< of the selected plant rule
    EmitterId pinned_;
    ProjectFiles files_;
    std::optional<OutputInUse> output_;
    SoundWatch watch_;
    List<Sound> watchedSounds_; ///< whose files it knows: most edits are of something else
    QTimer untilWatched_;
    LevelLoader geometry_{this};
    WayFinder ways_{this};
    Examiner examiner_{bank_, [this] { return examined(); }, this};
};

} // namespace stone
