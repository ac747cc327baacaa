#include "app/sounds/sound_page.h"

#include "app/theme/labels.h"

#include <QGridLayout>
#include <QHBoxLayout>
#include <QSignalBlocker>
#include <QVBoxLayout>

#include <cmath>
#include <sstream>

namespace stone
{

namespace
{

std::string joined(const std::vector<std::string>& tags)
{
    std::string text;
    for (const std::string& tag : tags) {
        text += (text.empty() ? "" : ", ") + tag;
    }
    return text;
}

std::vector<std::string> parted(const QString& text)
{
    std::vector<std::string> tags;
    for (const QString& part : text.split(',', Qt::SkipEmptyParts)) {
        if (!part.trimmed().isEmpty()) {
            tags.push_back(part.trimmed().toStdString());
        }
    }
    return tags;
}

} // namespace

SoundPage::SoundPage(Session& session, Playback& playback, QWidget* parent)
    : QWidget(parent), session_(session), playback_(playback), name_(new QLineEdit), file_(theme::caption({})),
      listen_(new QPushButton), used_(theme::caption({})), wave_(new WaveformView), seam_(new SeamView),
      verdict_(theme::caption({})), facts_(theme::caption({})), loop_(new QCheckBox(tr("Loop"))),
      randomStart_(new QCheckBox(tr("copies start apart")))
{
    setObjectName("soundPage");
    name_->setObjectName("soundName");
    name_->setAccessibleName(tr("Name"));
    name_->setFont(theme::text(12, QFont::Bold));
    listen_->setObjectName("audition");
    loop_->setObjectName("soundLoop");
    randomStart_->setObjectName("soundRandomStart");
    randomStart_->setToolTip(
        tr("Each copy of this loop begins at a place of its own; otherwise all are locked, sample by sample"));
    facts_->setWordWrap(true);
    facts_->setObjectName("soundFacts");
    verdict_->setObjectName("seamVerdict");
    verdict_->setStyleSheet("color: " + theme::ink.name());

    auto* head = new QHBoxLayout;
    head->addWidget(name_, 1);
    head->addWidget(listen_);
    auto* grid = new QGridLayout;
    grid->setHorizontalSpacing(6);
    grid->setVerticalSpacing(1);
    const auto place = [grid](int row, int column, const QString& label, QWidget* field, int span = 1) {
        grid->addWidget(theme::caption(label), row, column, 1, span);
        grid->addWidget(field, row + 1, column, 1, span);
    };
    place(0, 0, tr("Level"),
          number("soundLevel", "dB", -200, 60, 1, 1, &Sound::level_db, tr("level to %1 dB"), tr("For all who play it")));
    place(0, 1, tr("± per copy"),
          number("soundLevelSpread", "dB", 0, 60, 1, 0.5, &Sound::levelSpread_db, tr("level spread %1 dB"),
                 tr("Each copy's level lies so far around it, the same each time")));
    place(0, 2, tr("Pitch ± per copy"),
          number("soundPitchSpread", tr("st"), 0, 48, 2, 0.1, &Sound::pitchSpread_st, tr("pitch spread %1 semitones"),
                 tr("Each copy's pitch lies so far around its own")));
    place(2, 0, tr("High-pass"),
          number("soundHighPass", "Hz", 20, 20'000, 0, 10, &Sound::highPass_hz, tr("high-pass to %1 Hz"), tr("20: open")));
    place(2, 1, tr("Low-pass"),
          number("soundLowPass", "Hz", 20, 20'000, 0, 100, &Sound::lowPass_hz, tr("low-pass to %1 Hz"), tr("20000: open")));
    auto* switches = new QVBoxLayout;
    switches->setSpacing(0);
    switches->addWidget(loop_);
    switches->addWidget(randomStart_);
    grid->addLayout(switches, 2, 2, 2, 1);
    place(4, 0, tr("Tags, with commas between"), words("soundTags", tr("tags"), {}), 3);
    place(6, 0, tr("Source"), words("soundSource", tr("source"), [](Sound& s) -> std::string& { return s.credit.source; }), 3);
    place(8, 0, tr("Author"), words("soundAuthor", tr("author"), [](Sound& s) -> std::string& { return s.credit.author; }), 2);
    place(8, 2, tr("Licence"), words("soundLicence", tr("licence"), [](Sound& s) -> std::string& { return s.credit.licence; }));
    for (int column = 0; column < 3; ++column) {
        grid->setColumnStretch(column, 1);
    }

    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(14, 12, 14, 8);
    box->setSpacing(6);
    box->addLayout(head);
    box->addWidget(file_);
    box->addWidget(wave_);
    box->addWidget(facts_);
    box->addWidget(seam_);
    box->addWidget(verdict_);
    box->addLayout(grid);
    box->addWidget(used_);
    box->addStretch();

    connect(name_, &QLineEdit::editingFinished, this, [this] {
        const std::string wanted = name_->text().trimmed().toStdString();
        const Sound* sound = session_.project().sounds.find(id_);
        if (sound != nullptr && !wanted.empty() && wanted != sound->name) {
            edit(tr("renamed to %1").arg(QString::fromStdString(wanted)), {}, [&](Sound& s) { s.name = wanted; });
        }
    });
    connect(listen_, &QPushButton::clicked, this, [this] {
        if (playback_.auditioned() == id_) {
            playback_.stopAudition();
        } else {
            listen(0.0);
        }
    });
    connect(wave_, &WaveformView::listenWanted, this, &SoundPage::listen);
    connect(loop_, &QCheckBox::clicked, this,
            [this](bool on) { edit(on ? tr("loops") : tr("plays once"), {}, [&](Sound& s) { s.loop = on; }); });
    connect(randomStart_, &QCheckBox::clicked, this, [this](bool on) {
        edit(on ? tr("copies start apart") : tr("copies are locked"), {}, [&](Sound& s) { s.randomStart = on; });
    });
    connect(&playback_, &Playback::listeningChanged, this, &SoundPage::refresh);
}

NumberField* SoundPage::number(const char* name, const QString& unit, double least, double most, int decimals, double step,
                               double Sound::*member, const QString& what, const QString& help)
{
    auto* field = new NumberField(unit, least, most, decimals, step);
    field->setObjectName(name);
    field->setToolTip(help);
    numbers_.emplace_back(field, member);
    connect(field, &NumberField::valueEdited, this, [this, field, member, what](double value) {
        edit(what.arg(value), field->objectName(), [&](Sound& s) { s.*member = value; });
    });
    connect(field, &NumberField::editingFinished, this, [this] { session_.endGesture(); });
    return field;
}

QLineEdit* SoundPage::words(const char* name, const QString& label, const std::function<std::string&(Sound&)>& member)
{
    auto* field = new QLineEdit;
    field->setObjectName(name);
    field->setAccessibleName(label);
    words_.emplace_back(field, member);
    connect(field, &QLineEdit::editingFinished, this, [this, field, label, member] {
        if (!field->isModified()) {
            return;
        }
        field->setModified(false);
        edit(label, {}, [&](Sound& s) {
            if (member) {
                member(s) = field->text().trimmed().toStdString();
            } else {
                s.tags = parted(field->text());
            }
        });
    });
    return field;
}

void SoundPage::edit(const QString& what, const QString& gesture, const std::function<void(Sound&)>& change)
{
    const Sound* found = session_.project().sounds.find(id_);
    if (found == nullptr) {
        return;
    }
    Sound sound = *found;
    change(sound);
    Project next = session_.project();
    next.sounds.put(sound);
    session_.edit(std::move(next), tr("Sound %1: %2").arg(QString::fromStdString(sound.name), what), gesture);
}

void SoundPage::listen(double from_s)
{
    playback_.audition(id_, from_s);
}

void SoundPage::showSound(const SoundId& id)
{
    id_ = id;
    refresh();
}

void SoundPage::refresh()
{
    const Sound* sound = session_.project().sounds.find(id_);
    if (sound == nullptr) {
        return;
    }
    if (!name_->hasFocus() || !name_->isModified()) {
        name_->setText(QString::fromStdString(sound->name));
        name_->setCursorPosition(0);
    }
    file_->setText(QString::fromStdString(sound->file));
    listen_->setText(playback_.auditioned() == id_ ? tr("■ stop") : tr("▶ listen"));
    loop_->setChecked(sound->loop);
    randomStart_->setChecked(sound->randomStart);
    randomStart_->setEnabled(sound->loop);
    for (const auto& [field, member] : numbers_) {
        field->present(sound->*member);
    }
    Sound copy = *sound;
    for (const auto& [field, member] : words_) {
        if (!field->hasFocus()) {
            field->setText(QString::fromStdString(member ? member(copy) : joined(copy.tags)));
        }
    }
    int users = 0;
    for (const auto& level : session_.project().levels) {
        for (const auto& emitter : level->emitters) {
            users += emitter->sound == id_ ? 1 : 0;
        }
    }
    used_->setText(users == 0   ? tr("no emitter plays it yet: drag it onto the Plan")
                   : users == 1 ? tr("1 emitter plays it")
                                : tr("%1 emitters play it").arg(users));
    const SoundBank::Entry entry = session_.soundEntry(*sound);
    wave_->showSound(entry.buffer);
    seam_->setVisible(sound->loop && entry.buffer);
    verdict_->setVisible(sound->loop && entry.buffer);
    seam_->showSound(entry.buffer);
    if (!entry.buffer) {
        facts_->setText(entry.state == SoundBank::State::failed ? QString::fromStdString(entry.error) : QString());
        return;
    }
    const SampleBuffer& buffer = *entry.buffer;
    const SoundFacts& facts = buffer.facts;
    const auto megabytes =
        static_cast<double>(buffer.frames() * (buffer.channels.size() + (buffer.folded.empty() ? 0 : 1)) * sizeof(float)) / 1e6;
    QStringList parts{
        tr("%1 s").arg(buffer.seconds(), 0, 'f', 2),
        buffer.channels.size() == 1   ? tr("mono")
        : buffer.channels.size() == 2 ? tr("stereo")
                                      : tr("%1 channels").arg(buffer.channels.size()),
        std::isfinite(facts.integrated_lufs) ? tr("%1 LUFS").arg(theme::signedNumber(facts.integrated_lufs, 1))
                                             : tr("too short for a loudness"),
        tr("peak %1 dB").arg(theme::signedNumber(20.0 * std::log10(std::max(static_cast<double>(buffer.peak), 1e-6)), 1)),
        tr("%1 MB in memory").arg(megabytes, 0, 'f', 1)};
    if (facts.headSilence_s + facts.tailSilence_s > 0.05) {
        parts << tr("silent for %1 s at its start, %2 s at its end")
                     .arg(facts.headSilence_s, 0, 'f', 2)
                     .arg(facts.tailSilence_s, 0, 'f', 2);
    }
    if (facts.dc > 0.001) {
        parts << tr("off centre by %1 %").arg(100.0 * facts.dc, 0, 'f', 1);
    }
    if (sound->loop && facts.swell_db > 6.0) {
        parts << tr("swells by %1 dB").arg(facts.swell_db, 0, 'f', 0);
    }
    facts_->setText(parts.join(QStringLiteral(" · ")));
    verdict_->setText(tr("At the seam: %1 (step %2 dB against its usual ones, spectrum %3 dB)")
                          .arg(QString::fromUtf8(seamVerdict(facts)), theme::signedNumber(facts.seamStep_db, 0),
                               theme::signedNumber(facts.seamSpectrum_db, 0)));
    verdict_->setWordWrap(true);
    refreshPositions();
}

void SoundPage::refreshPositions()
{
    if (isVisible()) {
        wave_->showPositions(playback_.positionsOf(id_));
    }
}

} // namespace stone
