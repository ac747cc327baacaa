// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/sounds/about_form.h"

#include "app/theme/labels.h"

#include <cmath>

namespace stone
{

namespace
{

QString joined(const std::vector<std::string>& tags)
{
    QStringList words;
    for (const std::string& tag : tags) {
        words << QString::fromStdString(tag);
    }
    return words.join(QStringLiteral(", "));
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

AboutForm::AboutForm(Session& session, QWidget* parent)
    : SoundForm(session, parent), tags_(new QLineEdit), cost_(theme::caption({}))
{
    tags_->setObjectName("soundTags");
    cost_->setObjectName("soundCost");
    cost_->setWordWrap(true);
    auto* grid = new QGridLayout(this);
    grid->setContentsMargins(0, 6, 0, 0);
    grid->setHorizontalSpacing(6);
    grid->setVerticalSpacing(4);
    auto* folder = words("soundFolder", tr("Folder"), [](Sound& s) -> std::string& { return s.folder; });
    folder->setPlaceholderText(tr("at the top"));
    folder->setToolTip(tr("Where it stands in the list of sounds: weather/rain"));
    auto* keeping = choice(
        "soundKeeping", tr("Kept in memory"),
        {tr("as suits its length"), tr("decoded"), tr("compressed"), tr("streamed from the disk")},
        [](const Sound& s) { return static_cast<int>(s.keeping); },
        [](Sound& s, int index) { s.keeping = static_cast<Keeping>(index); });
    keeping->setToolTip(tr("Decoded costs memory; compressed and streamed cost computing while they play"));
    grid->addWidget(labelled(tr("Folder"), folder), 0, 0, 1, 2);
    grid->addWidget(labelled(tr("Tags, with commas between"), tags_), 1, 0, 1, 2);
    grid->addWidget(
        labelled(tr("Source of this file"),
                 words("soundSource", tr("Source"), [this](Sound& s) -> std::string& { return fileOf(s).credit.source; })),
        2, 0, 1, 2);
    grid->addWidget(labelled(tr("Author"), words("soundAuthor", tr("Author"),
                                                 [this](Sound& s) -> std::string& { return fileOf(s).credit.author; })),
                    3, 0);
    grid->addWidget(labelled(tr("Licence"), words("soundLicence", tr("Licence"),
                                                  [this](Sound& s) -> std::string& { return fileOf(s).credit.licence; })),
                    3, 1);
    grid->addWidget(labelled(tr("Kept in memory"), keeping), 4, 0);
    grid->addWidget(
        labelled(QString(),
                 flag("soundBinaural", tr("made for two ears"),
                      tr("A binaural recording: goes to the ears as it is, past the head model and the place in the world"),
                      [](Sound& s) -> bool& { return s.binaural; })),
        4, 1);
    grid->addWidget(cost_, 5, 0, 1, 2);
    connect(tags_, &QLineEdit::editingFinished, this, [this] {
        if (tags_->isModified()) {
            tags_->setModified(false);
            edit(tr("tags"), {}, [&](Sound& s) { s.tags = parted(tags_->text()); });
        }
    });
}

void AboutForm::refresh()
{
    SoundForm::refresh();
    const Sound* shown = sound();
    if (shown == nullptr) {
        return;
    }
    if (!tags_->hasFocus()) {
        tags_->setText(joined(shown->tags));
    }
    double bytes = 0.0;
    double cost = 0.0;
    bool streamed = false;
    for (std::size_t i = 0; i < shown->files.size(); ++i) {
        const SoundBank::Entry entry = session_.soundEntry(*shown, i);
        if (entry.buffer) {
            bytes += static_cast<double>(entry.buffer->bytes());
            cost += entry.buffer->cost();
            streamed = streamed || !entry.buffer->decoded();
        }
    }
    QString text = tr("takes %1 MB in memory").arg(bytes / 1e6, 0, 'f', 1);
    text += streamed ? tr(" and, while it plays, %1 % of a processor core").arg(100.0 * cost, 0, 'f', 2)
                     : tr(", nothing to decode while it plays");
    int users = 0;
    for (const auto& level : session_.project().levels) {
        for (const auto& emitter : level->emitters) {
            users += emitter->sound == shown->id ? 1 : 0;
        }
    }
    text += users == 0   ? tr("\nno emitter plays it yet: drag it onto the Plan")
            : users == 1 ? tr("\n1 emitter plays it")
                         : tr("\n%1 emitters play it").arg(users);
    cost_->setText(text);
}

} // namespace stone
