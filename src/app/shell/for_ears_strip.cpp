// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/shell/for_ears_strip.h"

#include "app/session/take_desk.h"
#include "app/theme/theme.h"

#include <QHBoxLayout>
#include <QPushButton>

#include <cmath>
#include <utility>

namespace stone
{

namespace
{

constexpr qsizetype mostNames = 3;

template <class Id, class Things> void addNames(QStringList& names, const std::set<Id>& ids, const Things& things)
{
    for (const Id& id : ids) {
        if (const auto* thing = things.find(id)) {
            names << QString::fromStdString(thing->name);
        }
    }
}

QString shortList(QStringList names)
{
    const qsizetype more = names.size() - mostNames;
    if (more > 0) {
        names = names.first(mostNames);
        names << QObject::tr("%1 more").arg(more);
    }
    return names.join(QStringLiteral(", "));
}

} // namespace

ForEarsStrip::ForEarsStrip(Session& session, Playback& playback, QWidget* parent)
    : QWidget(parent), session_(session), playback_(playback), words_(new QLabel)
{
    setObjectName("forEars");
    setAttribute(Qt::WA_StyledBackground);
    setStyleSheet("#forEars { background: " + theme::shade.name() + "; border-bottom: 1px solid " + theme::line.name() + "; }");
    words_->setObjectName("forEarsWords");
    words_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
    auto* clear = new QPushButton(tr("Hear it as it is (F10)"));
    clear->setObjectName("forEarsClear");
    clear->setProperty("link", true);
    clear->setToolTip(tr("Ends solo and all else that is only for your ears; the project has none of it"));
    auto* box = new QHBoxLayout(this);
    box->setContentsMargins(14, 3, 8, 3);
    box->addWidget(words_, 1);
    box->addWidget(clear);
    connect(clear, &QPushButton::clicked, this, [this] {
        session_.lookAt({});
        playback_.hearAsItIs();
    });
    connect(&playback_, &Playback::listeningChanged, this, &ForEarsStrip::refresh);
    connect(&session_, &Session::documentChanged, this, &ForEarsStrip::refresh);
    connect(&playback_.takes(), &TakeDesk::takeChanged, this, &ForEarsStrip::refresh);
    connect(&playback_, &Playback::ticked, this, [this] {
        const auto& snapshot = playback_.snapshot();
        const int limited_db = snapshot ? static_cast<int>(std::floor(snapshot->limited_db + 0.5F)) : 0;
        if (limited_db != std::exchange(limited_db_, limited_db)) {
            refresh();
        }
    });
    refresh();
}

void ForEarsStrip::refresh()
{
    const ForEars& forEars = playback_.forEars();
    const auto& emitters = session_.level().emitters;
    QStringList parts;
    if (session_.seen()) {
        parts << tr("as it was: %1").arg(session_.seen()->name);
    }
    if (const auto& take = playback_.takes().take()) {
        parts << tr("as it was in %1").arg(QString::fromStdString(take->path().stem().string()));
    }
    if (forEars.anySolo()) {
        QStringList names;
        addNames(names, forEars.solo, emitters);
        addNames(names, forEars.soloFamilies, session_.project().families);
        parts << tr("solo: %1").arg(names.isEmpty() ? tr("nothing that is here") : shortList(names));
    }
    if (!forEars.muted.empty()) {
        QStringList names;
        addNames(names, forEars.muted, emitters);
        parts << tr("hushed: %1").arg(names.isEmpty() ? tr("nothing that is here") : shortList(names));
    }
    const Otherwise& otherwise = playback_.otherwise();
    if (otherwise.falloff) {
        const Emitter* emitter = emitters.find(otherwise.falloff->emitter);
        parts << tr("another falloff: %1").arg(emitter != nullptr ? QString::fromStdString(emitter->name) : QString());
    }
    if (otherwise.bare) {
        parts << tr("without filters and effects");
    }
    if (!otherwise.gazing) {
        parts << tr("without the gaze");
    }
    if (!otherwise.answering) {
        parts << tr("without reverb");
    }
    const struct {
        const std::set<EmitterId>& which;
        QString words;
    } ones[] = {{otherwise.bareOnes, tr("without effects: %1")},
                {otherwise.dryOnes, tr("without reverb: %1")},
                {otherwise.openOnes, tr("through walls: %1")},
                {otherwise.handedOnes, tr("by hand: %1")}};
    for (const auto& one : ones) {
        QStringList names;
        addNames(names, one.which, emitters);
        if (!names.isEmpty()) {
            parts << one.words.arg(shortList(names));
        }
    }
    // Shown while it acts, to the decibel: what it does is heard and in no render.
    if (limited_db_ < 0) {
        parts << tr("a limiter takes %1 dB off").arg(-limited_db_);
    }
    words_->setText(tr("Only for your ears · %1").arg(parts.join(QStringLiteral(" · "))));
    words_->setToolTip(words_->text());
    setVisible(!parts.isEmpty());
}

} // namespace stone
