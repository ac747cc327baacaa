// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/sounds/play_form.h"

#include "app/theme/labels.h"
#include "engine/course.h"
#include "engine/scene.h"

#include <QVBoxLayout>

#include <cmath>

namespace stone
{

namespace
{

/// Fields side by side, all alike in width.
QWidget* row(std::initializer_list<QWidget*> fields)
{
    auto* widget = new QWidget;
    auto* box = new QHBoxLayout(widget);
    box->setContentsMargins(0, 0, 0, 0);
    box->setSpacing(6);
    for (QWidget* field : fields) {
        box->addWidget(field, 1);
    }
    return widget;
}

/// "1 min 36 s", "2 h 5 min".
QString longTime(double seconds)
{
    const auto whole = static_cast<int>(std::lround(seconds));
    if (whole < 60) {
        return QObject::tr("%1 s").arg(seconds, 0, 'f', 1);
    }
    return whole < 3600 ? QObject::tr("%1 min %2 s").arg(whole / 60).arg(whole % 60)
                        : QObject::tr("%1 h %2 min").arg(whole / 3600).arg(whole % 3600 / 60);
}

} // namespace

PlayForm::PlayForm(Session& session, QWidget* parent)
    : SoundForm(session, parent), repeats_(theme::caption({})), fileHead_(theme::caption({})),
      drawn_(new LaneStack(LaneInput::time, {LaneProperty::level}, drawnDrift()))
{
    drawn_->setObjectName("drawnDrift");
    repeats_->setObjectName("repeats");
    repeats_->setWordWrap(true);
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(0, 4, 0, 0);
    box->setSpacing(4);
    box->addWidget(makeRow());
    box->addWidget(sequenceRows());
    box->addWidget(repeats_);
    box->addWidget(soundRows());
    box->addWidget(fileRows());
}

/// The drawn wandering of the shown file, as a lane over the time of one period.
LaneStack::Source PlayForm::drawnDrift()
{
    return {.lanes =
                [this] {
                    const Sound* sound = thing();
                    std::vector<Lane> lanes;
                    if (sound != nullptr && file() < sound->files.size() && !sound->files[file()].levelDrift.drawn.empty()) {
                        Lane lane;
                        lane.over = LaneInput::time;
                        lane.shape = LaneShape::curve;
                        lane.curve = sound->files[file()].levelDrift.drawn;
                        lanes.push_back(std::move(lane));
                    }
                    return lanes;
                },
            .change =
                [this](const std::vector<Lane>& lanes, const QString& what, const QString& gesture) {
                    const bool none = lanes.empty() || !lanes.front().on;
                    edit(tr("wandering, %1").arg(what), gesture,
                         [&](Sound& s) { fileOf(s).levelDrift.drawn = none ? Curve{} : lanes.front().curve; });
                },
            .endGesture = [this] { session_.endGesture(); },
            .place = [] { return std::optional<double>(); },
            .ghost = [] { return std::vector<Lane>{}; },
            .preview = [](double) {},
            .endPreview = [] {}};
}

QWidget* PlayForm::makeRow()
{
    auto* make = choice(
        "soundMake", tr("Makes of its files"),
        {tr("one file each start"), tr("a run: one file after another"), tr("slices: pieces of the files"),
         tr("layers: all files at once"), tr("mixed: loops and accents")},
        [](const Sound& s) { return static_cast<int>(s.make); },
        [](Sound& s, int index) {
            s.make = static_cast<Make>(index);
            // A mixed sound without a pause between its accents would be a run: one that can be heard to begin with.
            if (s.make == Make::mixed && s.sequence.gapMost_s <= 0.0) {
                s.sequence.gapLeast_s = 4.0;
                s.sequence.gapMost_s = 12.0;
            }
        });
    make->setToolTip(tr("What this sound makes of its files"));
    auto* loop =
        flag("soundLoop", tr("Loop"), tr("Goes on for ever; otherwise once through"), [](Sound& s) -> bool& { return s.loop; });
    apart_ =
        flag("soundRandomStart", tr("each copy its own way"),
             tr("Each copy begins at a place of its own and takes files by its own chance; otherwise all copies are locked, "
                "sample by sample"),
             [](Sound& s) -> bool& { return s.copiesApart; });
    auto* all = new QWidget;
    auto* grid = new QGridLayout(all);
    grid->setContentsMargins(0, 0, 0, 0);
    grid->setHorizontalSpacing(8);
    grid->setVerticalSpacing(4);
    grid->addWidget(theme::caption(tr("Plays"), make), 0, 0);
    grid->addWidget(make, 0, 1, 1, 2);
    grid->addWidget(loop, 1, 1);
    grid->addWidget(apart_, 1, 2);
    grid->setColumnStretch(2, 1);
    return all;
}

QWidget* PlayForm::sequenceRows()
{
    const auto seconds = [this](const char* name, const QString& what, const QString& help, double Sequence::*member,
                                double Sequence::*other = nullptr, bool otherAbove = false) {
        std::optional<Partner<Sound>> partner;
        if (other != nullptr) {
            partner = Partner<Sound>{[other](Sound& s) -> double& { return s.sequence.*other; }, otherAbove};
        }
        return number(
            {name, "s", what, help}, NumberSteps{2, 0.5}.over(rangeOf(member)),
            [member](Sound& s) -> double& { return s.sequence.*member; }, partner);
    };
    order_ = labelled(tr("Order"), choice(
                                       "soundOrder", tr("Order"), {tr("random"), tr("in turn"), tr("shuffled")},
                                       [](const Sound& s) { return static_cast<int>(s.sequence.order); },
                                       [](Sound& s, int index) { s.sequence.order = static_cast<Order>(index); }));
    order_->setToolTip(tr("Random never takes one twice running; shuffled takes each once before any comes again"));
    auto* least = seconds("gapLeast", tr("shortest gap %1 s"), tr("The shortest silence between two"), &Sequence::gapLeast_s,
                          &Sequence::gapMost_s, true);
    auto* most = seconds("gapMost", tr("longest gap %1 s"), tr("The longest silence between two; 0: none"),
                         &Sequence::gapMost_s, &Sequence::gapLeast_s, false);
    gaps_ = row({labelled(tr("Gap, least"), least), labelled(tr("most"), most)});
    gapChance_ =
        labelled(tr("taken"), number({"gapChance", "%", tr("gap taken %1 %"),
                                      tr("How often the gap is taken; otherwise the next one follows at once")},
                                     {0, 100, 0, 10, 100.0}, [](Sound& s) -> double& { return s.sequence.gapChance; }));
    crossFade_ = labelled(tr("Cross-fade"), seconds("crossFade", tr("cross-fade %1 s"),
                                                    tr("Between two that follow without a gap"), &Sequence::crossFade_s));
    auto* shortest = seconds("sliceLeast", tr("shortest slice %1 s"), tr("The shortest slice"), &Sequence::sliceLeast_s,
                             &Sequence::sliceMost_s, true);
    auto* longest = seconds("sliceMost", tr("longest slice %1 s"), tr("The longest slice"), &Sequence::sliceMost_s,
                            &Sequence::sliceLeast_s, false);
    auto* atOnce = choice(
        "atOnce", tr("At once"), {"1", "2", "3", "4", "5", "6", "7", "8"}, [](const Sound& s) { return s.sequence.atOnce - 1; },
        [](Sound& s, int index) { s.sequence.atOnce = index + 1; });
    slices_ = row({labelled(tr("Slice, least"), shortest), labelled(tr("most"), longest), labelled(tr("At once"), atOnce)});
    auto* all = new QWidget;
    auto* box = new QVBoxLayout(all);
    box->setContentsMargins(0, 0, 0, 0);
    box->setSpacing(4);
    box->addWidget(slices_);
    auto* gapRow = new QHBoxLayout;
    gapRow->setSpacing(6);
    gapRow->addWidget(order_, 1);
    gapRow->addWidget(gaps_, 2);
    box->addLayout(gapRow);
    auto* nextRow = new QHBoxLayout;
    nextRow->setSpacing(6);
    nextRow->addWidget(gapChance_, 1);
    nextRow->addWidget(crossFade_, 1);
    nextRow->addStretch(1);
    box->addLayout(nextRow);
    return all;
}

QWidget* PlayForm::soundRows()
{
    const auto field = [this](const char* name, const QString& unit, const QString& label, const QString& what,
                              const QString& help, const NumberSteps& steps, double Sound::*member) {
        return labelled(label, number({name, unit, what, help}, steps.over(rangeOf(member)),
                                      [member](Sound& s) -> double& { return s.*member; }));
    };
    fadeOut_ = field("fadeOut", "s", tr("Fade out"), tr("fade out %1 s"), tr("Towards the end of whatever ends"), {2, 0.1},
                     &Sound::fadeOut_s);
    auto* all = new QWidget;
    auto* box = new QVBoxLayout(all);
    box->setContentsMargins(0, 0, 0, 0);
    box->setSpacing(4);
    box->addWidget(
        row({field("soundLevel", "dB", tr("Level"), tr("level to %1 dB"), tr("For all who play it, and all its files"), {1, 1},
                   &Sound::level_db),
             field("soundLevelSpread", "dB", tr("± each start"), tr("level spread %1 dB"),
                   tr("The level of each start, and of each copy, lies so far around it"), {1, 0.5}, &Sound::levelSpread_db),
             field("soundPitchSpread", tr("st"), tr("Pitch ± each start"), tr("pitch spread %1 semitones"),
                   tr("The pitch of each start, and of each copy, lies so far around its own"), {2, 0.1},
                   &Sound::pitchSpread_st)}));
    box->addWidget(row(
        {field("soundHighPass", "Hz", tr("High-pass"), tr("high-pass to %1 Hz"), tr("20: open"), {0, 10}, &Sound::highPass_hz),
         field("soundLowPass", "Hz", tr("Low-pass"), tr("low-pass to %1 Hz"), tr("20000: open"), {0, 100}, &Sound::lowPass_hz),
         field("soundDelay", "s", tr("Delay"), tr("delay %1 s"), tr("From a start until anything sounds"), {2, 0.1},
               &Sound::delay_s)}));
    box->addWidget(
        row({field("fadeIn", "s", tr("Fade in"), tr("fade in %1 s"), tr("Of each start"), {2, 0.1}, &Sound::fadeIn_s), fadeOut_,
             new QWidget}));
    return all;
}

QWidget* PlayForm::fileRows()
{
    const auto seconds = [this](const char* name, const QString& label, const QString& what, const QString& help,
                                double SoundFile::*member) {
        return labelled(label, number({name, "s", what, help}, NumberSteps{3, 0.01}.over(rangeOf(member)),
                                      [this, member](Sound& s) -> double& { return fileOf(s).*member; }));
    };
    loopPoints_ = row({seconds("loopFrom", tr("Loop comes back to"), tr("loop back to %1 s"),
                               tr("Where the loop goes on after its end"), &SoundFile::loopFrom_s),
                       seconds("loopTo", tr("Loop ends at"), tr("loop ends at %1 s"), tr("0: at the end of the file"),
                               &SoundFile::loopTo_s)});
    const auto drift = [this](const char* names[3], const QString& label, const QString& unit, double most,
                              Drift SoundFile::*member) {
        auto* depth = number({names[0], unit, label + " ± %1", tr("It wanders so far up and down, slowly; 0: not at all")},
                             {0, most, 2, 0.5}, [this, member](Sound& s) -> double& { return (fileOf(s).*member).depth; });
        auto* period =
            number({names[1], "s", label + tr(" every %1 s"), tr("Once round in so long; take another time than the loop's")},
                   {0.1, 3600, 1, 1}, [this, member](Sound& s) -> double& { return (fileOf(s).*member).period_s; });
        auto* irregular = flag(names[2], tr("irregular"), tr("By chance, another way each time round"),
                               [this, member](Sound& s) -> bool& { return (fileOf(s).*member).irregular; });
        return row({labelled(label, depth), labelled(tr("once in"), period), labelled(QString(), irregular)});
    };
    const char* level[3] = {"levelDrift", "levelDriftPeriod", "levelDriftIrregular"};
    const char* pitch[3] = {"pitchDrift", "pitchDriftPeriod", "pitchDriftIrregular"};
    drifts_ = new QWidget;
    auto* driftBox = new QVBoxLayout(drifts_);
    driftBox->setContentsMargins(0, 0, 0, 0);
    driftBox->setSpacing(4);
    driftBox->addWidget(drift(level, tr("Level wanders ±"), "dB", 60, &SoundFile::levelDrift));
    driftBox->addWidget(drift(pitch, tr("Pitch wanders ±"), tr("st"), 12, &SoundFile::pitchDrift));
    driftBox->addWidget(
        theme::explained(tr("Or the level as drawn, once round in its time: draw a lane to begin, untick it to end.")));
    driftBox->addWidget(drawn_);
    ofFile_ = new QWidget;
    auto* box = new QVBoxLayout(ofFile_);
    box->setContentsMargins(0, 4, 0, 0);
    box->setSpacing(4);
    box->addWidget(fileHead_);
    box->addWidget(loopPoints_);
    box->addWidget(drifts_);
    return ofFile_;
}

void PlayForm::refresh()
{
    SoundForm::refresh();
    const Sound* shown = sound();
    if (shown == nullptr) {
        return;
    }
    const bool several = shown->files.size() > 1;
    const bool run = shown->make == Make::run;
    const bool slices = shown->make == Make::slices;
    const bool mixed = shown->make == Make::mixed;
    const bool together = shown->make == Make::layers || mixed;
    order_->setVisible(!slices && several && shown->make != Make::layers);
    gaps_->setVisible(run || mixed || slices);
    gapChance_->setVisible((run || slices) && shown->sequence.gapMost_s > 0.0);
    crossFade_->setVisible(run || slices);
    slices_->setVisible(slices);
    const bool fileLoops = file() < shown->files.size() && isLooped(*shown, shown->files[file()]);
    fadeOut_->setEnabled(!shown->loop || !fileLoops);
    fadeOut_->setToolTip(fadeOut_->isEnabled() ? QString() : tr("A loop does not end"));
    loopPoints_->setVisible(fileLoops);
    drifts_->setVisible(fileLoops && together);
    drawn_->refresh();
    ofFile_->setVisible(fileLoops);
    fileHead_->setVisible(several);
    fileHead_->setText(several && file() < shown->files.size()
                           ? tr("Of %1 alone:").arg(QString::fromStdString(shown->files[file()].file).section('/', -1))
                           : QString());
    showRepeat(*shown);
}

void PlayForm::showRepeat(const Sound& shown)
{
    std::vector<double> lengths;
    double rate = 48'000.0;
    const bool together = shown.make == Make::layers || shown.make == Make::mixed;
    for (std::size_t i = 0; together && shown.loop && i < shown.files.size(); ++i) {
        const SoundBank::Entry entry = session_.soundEntry(shown, i);
        if (entry.buffer && isLooped(shown, shown.files[i])) {
            rate = entry.buffer->rate;
            const double end = shown.files[i].loopTo_s > 0.0 ? std::min(shown.files[i].loopTo_s, entry.buffer->seconds())
                                                             : entry.buffer->seconds();
            lengths.push_back(std::max(std::round((end - shown.files[i].loopFrom_s) * rate), 1.0));
        }
    }
    repeats_->setVisible(lengths.size() > 1);
    if (lengths.size() > 1) {
        const auto after = repeatsAfter_s(lengths, rate);
        repeats_->setText(after ? tr("The loops of these lengths meet in the same way again after %1.").arg(longTime(*after))
                                : tr("The loops of these lengths do not meet in the same way again within a day."));
    }
}

} // namespace stone
