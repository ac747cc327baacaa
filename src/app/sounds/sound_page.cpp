// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/sounds/sound_page.h"

#include "app/sounds/about_form.h"
#include "app/sounds/effects_form.h"
#include "app/sounds/play_form.h"
#include "app/theme/labels.h"

#include <QHBoxLayout>
#include <QVBoxLayout>

#include <cmath>

namespace stone
{

SoundPage::SoundPage(Session& session, Playback& playback, QWidget* parent)
    : Page(parent), session_(session), playback_(playback), back_(new QPushButton), name_(new QLineEdit),
      listen_(new QPushButton), around_(new QCheckBox(tr("a click loops"))), files_(new FileList(session)),
      wave_(new WaveformView), seam_(new SeamView), verdict_(theme::caption({})), facts_(theme::caption({})),
      tabs_(new QTabBar), pages_(new QStackedWidget), repeats_(new RepeatView(session, playback)),
      crowd_(new CrowdPanel(VoicesView::Of::sound, "limit", session, playback)), burst_(new BurstForm(session, playback)),
      lanes_(new LaneStack(LaneInput::time, {LaneProperty::level, LaneProperty::lowPass, LaneProperty::highPass}, overTime()))
{
    setObjectName("soundPage");
    connect(&playback_, &Playback::ticked, this, &SoundPage::refreshPositions);
    back_->setObjectName("soundBack");
    back_->setProperty("link", true);
    back_->setFont(theme::text(8));
    name_->setObjectName("soundName");
    name_->setAccessibleName(tr("Name"));
    name_->setFont(theme::text(12, QFont::Bold));
    listen_->setObjectName("audition");
    around_->setObjectName("roundAndRound");
    around_->setToolTip(tr("What a click into the waveform plays goes on from the start, or the loop, when it is over"));
    facts_->setWordWrap(true);
    facts_->setObjectName("soundFacts");
    verdict_->setObjectName("seamVerdict");
    verdict_->setStyleSheet("color: " + theme::ink.name());
    verdict_->setWordWrap(true);

    lanes_->setObjectName("overTime");
    tabs_->setObjectName("soundTabs");
    tabs_->setDrawBase(false);
    tabs_->setExpanding(false);
    auto* playing = new QWidget;
    auto* playingBox = new QVBoxLayout(playing);
    playingBox->setContentsMargins(0, 0, 0, 0);
    playingBox->setSpacing(0);
    forms_ = {new PlayForm(session), new EffectsForm(session, playback), new AboutForm(session)};
    tabs_->addTab(tr("Plays"));
    tabs_->addTab(tr("Over time"));
    tabs_->addTab(tr("Effects"));
    tabs_->addTab(tr("At once"));
    tabs_->addTab(tr("About"));
    playingBox->addWidget(forms_[0]);
    playingBox->addWidget(repeats_);
    for (QWidget* page : std::initializer_list<QWidget*>{playing, lanes_, forms_[1], atOnce(), forms_[2]}) {
        auto* aligned = new QWidget;
        auto* box = new QVBoxLayout(aligned);
        box->setContentsMargins(0, 0, 0, 0);
        box->addWidget(page);
        box->addStretch();
        pages_->addWidget(aligned);
    }

    auto* head = new QHBoxLayout;
    head->addWidget(name_, 1);
    head->addWidget(listen_);
    auto* aboutWave = new QHBoxLayout;
    aboutWave->addWidget(facts_, 1);
    aboutWave->addWidget(around_, 0, Qt::AlignTop);
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(14, 12, 14, 8);
    box->setSpacing(4);
    box->addWidget(back_, 0, Qt::AlignLeft);
    box->addLayout(head);
    box->addWidget(files_);
    box->addWidget(wave_);
    box->addLayout(aboutWave);
    box->addWidget(seam_);
    box->addWidget(verdict_);
    box->addWidget(tabs_);
    box->addWidget(pages_);
    box->addStretch();

    connect(name_, &QLineEdit::editingFinished, this, [this] {
        const std::string wanted = name_->text().trimmed().toStdString();
        const Sound* sound = session_.project().sounds.find(id_);
        if (sound != nullptr && !wanted.empty()) {
            session_.editSound(id_, tr("renamed to %1").arg(QString::fromStdString(wanted)), {},
                               [&](Sound& s) { s.name = wanted; });
        }
    });
    connect(back_, &QPushButton::clicked, this, &SoundPage::backWanted);
    connect(listen_, &QPushButton::clicked, this, [this] { playback_.toggleAudition(id_); });
    connect(wave_, &WaveformView::listenWanted, this, &SoundPage::listen);
    connect(wave_, &WaveformView::gathered, this, &SoundPage::refresh);
    connect(files_, &FileList::chosen, this, &SoundPage::chooseFile);
    connect(tabs_, &QTabBar::currentChanged, this, [this](int tab) {
        pages_->setCurrentIndex(tab);
        refresh();
    });
    connect(&playback_, &Playback::listeningChanged, this, &SoundPage::refresh);
}

/// How many copies are heard together, what becomes of the others, and a burst to try it with.
QWidget* SoundPage::atOnce()
{
    auto* page = new QWidget;
    auto* box = new QVBoxLayout(page);
    box->setContentsMargins(0, 0, 0, 0);
    box->addWidget(
        theme::explained(tr("How many copies are heard together, over all emitters. What gives way keeps its time.")));
    box->addWidget(crowd_);
    box->addWidget(theme::heading(tr("Try it: a burst")));
    box->addWidget(burst_);
    return page;
}

LaneStack::Source SoundPage::overTime()
{
    return {.lanes =
                [this] {
                    const Sound* sound = session_.project().sounds.find(id_);
                    return sound != nullptr ? sound->lanes : std::vector<Lane>{};
                },
            .change =
                [this](std::vector<Lane> lanes, const QString& what, const QString& gesture) {
                    session_.editSound(id_, what, gesture, [&](Sound& s) { s.lanes = std::move(lanes); });
                },
            .endGesture = [this] { session_.endGesture(); },
            .place = [this] { return playback_.playedFor_s(id_); },
            .ghost = [] { return std::vector<Lane>{}; },
            .preview = [](double) {},
            .endPreview = [] {}};
}

void SoundPage::chooseFile(std::size_t file)
{
    file_ = file;
    refresh();
}

void SoundPage::listen(double from_s)
{
    playback_.auditionFile(id_, file_, from_s, around_->isChecked());
}

void SoundPage::showSound(const SoundId& id)
{
    if (id != id_) {
        file_ = 0;
        const Sound* sound = session_.project().sounds.find(id);
        around_->setChecked(sound != nullptr && sound->loop && sound->make != Make::run);
    }
    id_ = id;
    refresh();
}

void SoundPage::refresh()
{
    const Sound* sound = session_.project().sounds.find(id_);
    if (sound == nullptr) {
        return;
    }
    file_ = std::min(file_, std::max<std::size_t>(sound->files.size(), 1) - 1);
    if (!name_->hasFocus() || !name_->isModified()) {
        name_->setText(QString::fromStdString(sound->name));
        name_->setCursorPosition(0);
    }
    const Emitter* emitter = session_.subject();
    back_->setVisible(emitter != nullptr);
    back_->setText(emitter != nullptr ? tr("‹ back to %1").arg(QString::fromStdString(emitter->name)) : QString());
    listen_->setText(playback_.auditions(id_) ? tr("■ stop") : tr("▶ listen"));
    files_->showSound(id_, file_);
    for (SoundForm* form : forms_) {
        form->showSound(id_, file_);
    }
    crowd_->showSound(id_);
    burst_->showSound(id_);
    repeats_->showSound(id_);
    repeats_->setVisible(sound->loop);
    lanes_->refresh();
    const SoundBank::Entry entry = session_.soundEntry(*sound, file_);
    const bool loops = file_ < sound->files.size() && isLooped(*sound, sound->files[file_]);
    const SoundFile file = file_ < sound->files.size() ? sound->files[file_] : SoundFile{};
    wave_->showSound(entry.buffer, session_.bank().measures());
    wave_->showLoop(loops && (file.loopFrom_s > 0.0 || file.loopTo_s > 0.0)
                        ? std::optional(std::pair(file.loopFrom_s, file.loopTo_s))
                        : std::nullopt);
    // The seam belongs to how a loop plays: the other pages need the room.
    const bool seamShown = loops && entry.buffer && tabs_->currentIndex() == 0;
    seam_->setVisible(seamShown);
    verdict_->setVisible(seamShown);
    seam_->showSound(entry.buffer, file.loopFrom_s, file.loopTo_s);
    showFacts(*sound, entry);
    if (seamShown) {
        const SeamFacts seam = seamOf(*entry.buffer, file.loopFrom_s, file.loopTo_s);
        verdict_->setText(tr("At the seam: %1 (step %2 dB against its usual ones, spectrum %3 dB)")
                              .arg(QString::fromUtf8(seamVerdict(seam)), theme::signedNumber(seam.step_db, 0),
                                   theme::signedNumber(seam.spectrum_db, 0)));
    }
    refreshPositions();
}

void SoundPage::showFacts(const Sound& sound, const SoundBank::Entry& entry)
{
    if (!entry.buffer) {
        facts_->setText(entry.state == SoundBank::State::failed ? QString::fromStdString(entry.error) : QString());
        return;
    }
    const SampleBuffer& buffer = *entry.buffer;
    const SoundFacts& facts = buffer.facts;
    const std::size_t channels = buffer.channelCount();
    const auto decibels = [](double gain) { return theme::signedNumber(20.0 * std::log10(std::max(gain, 1e-6)), 1); };
    QStringList parts{tr("%1 s").arg(buffer.seconds(), 0, 'f', 2),
                      channels == 1   ? tr("mono")
                      : channels == 2 ? tr("stereo")
                                      : tr("%1 channels").arg(channels),
                      std::isfinite(facts.integrated_lufs) ? tr("%1 LUFS").arg(theme::signedNumber(facts.integrated_lufs, 1))
                      : std::isfinite(facts.loudest_lufs)
                          ? tr("%1 LUFS at its loudest").arg(theme::signedNumber(facts.loudest_lufs, 1))
                          : tr("silent")};
    parts << (wave_->truePeak() ? tr("true peak %1 dB").arg(decibels(*wave_->truePeak()))
                                : tr("peak %1 dB").arg(decibels(static_cast<double>(facts.peak))));
    if (facts.headSilence_s + facts.tailSilence_s > 0.05) {
        parts << tr("silent for %1 s at its start, %2 s at its end")
                     .arg(facts.headSilence_s, 0, 'f', 2)
                     .arg(facts.tailSilence_s, 0, 'f', 2);
    }
    if (facts.dc > 0.001) {
        parts << tr("off centre by %1 %").arg(100.0 * facts.dc, 0, 'f', 1);
    }
    if (file_ < sound.files.size() && isLooped(sound, sound.files[file_]) && facts.swell_db > 6.0) {
        parts << tr("swells by %1 dB").arg(facts.swell_db, 0, 'f', 0);
    }
    facts_->setText(parts.join(QStringLiteral(" · ")));
}

/// Only where the copies are, in each of its files.
void SoundPage::refreshPositions()
{
    if (isVisible()) {
        if (lanes_->isVisible()) {
            lanes_->refreshPlace();
        }
        const Sound* sound = session_.project().sounds.find(id_);
        for (std::size_t i = 0; sound != nullptr && i < sound->files.size(); ++i) {
            const std::vector<double> positions = playback_.positionsOf(id_, i);
            if (i == file_) {
                wave_->showPositions(positions);
            }
            files_->showPosition(i, positions.empty() ? std::nullopt : std::optional(positions.front()));
        }
    }
}

} // namespace stone
