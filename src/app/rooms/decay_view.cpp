// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/rooms/decay_view.h"

#include "app/session/work_pool.h"
#include "app/theme/labels.h"
#include "media/sound_writer.h"

#include <QFileDialog>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QVBoxLayout>
#include <QtConcurrent>
#include <qcustomplot.h>

#include <algorithm>

namespace stone
{

namespace
{

constexpr int bandRows = static_cast<int>(octaveBands_hz.size());
constexpr int firstShown = 4; ///< 1 kHz
constexpr double deepest_db = -70.0;
/// Layouts that a response is of use in.
constexpr Layout layouts[] = {Layout::mono, Layout::stereo, Layout::binaural, Layout::ambix1, Layout::ambix3};

QString hertz(double hz)
{
    return hz < 1000.0 ? QObject::tr("%1 Hz").arg(hz, 0, 'f', 0) : QObject::tr("%1 kHz").arg(hz / 1000.0, 0, 'f', 0);
}

QString seconds(const std::optional<double>& value)
{
    return value ? QString::number(*value, 'f', 2) + " s" : QStringLiteral("–");
}

} // namespace

DecayView::DecayView(Session& session, Playback& playback, QWidget* parent)
    : QDialog(parent, Qt::Tool), session_(session), playback_(playback), from_(new QComboBox), button_(new QPushButton),
      words_(new QLabel), plot_(new QCustomPlot), table_(new QTableWidget(bandRows + 1, 7)), layout_(new QComboBox),
      save_(new QPushButton(tr("Save as WAV…")))
{
    setObjectName("decayView");
    setWindowTitle(tr("What a place answers"));
    resize(640, 660);
    from_->setObjectName("decayFrom");
    from_->setAccessibleName(tr("Impulse from"));
    button_->setObjectName("decayNow");
    words_->setObjectName("decayWords");
    words_->setWordWrap(true);
    plot_->setObjectName("decayPlot");
    plot_->setMinimumHeight(240);
    layOutPlot();
    table_->setObjectName("decayTable");
    table_->setHorizontalHeaderLabels(
        {tr("Octave"), tr("first 10 dB"), tr("T20"), tr("T30"), tr("as set"), tr("C50"), tr("level")});
    const QString helps[] = {{},
                             tr("Early decay time: what one hears while sound goes on"),
                             tr("From −5 to −25 dB, for 60"),
                             tr("From −5 to −35 dB, for 60"),
                             tr("RT60 of the room in which the ears are"),
                             tr("The first 50 ms over all that comes later: the higher, the clearer is speech"),
                             tr("Of the whole response: 0 dB is the sound itself at a metre")};
    for (int column = 0; column < 7; ++column) {
        table_->horizontalHeaderItem(column)->setToolTip(helps[column]);
    }
    table_->horizontalHeader()->setSectionResizeMode(QHeaderView::Stretch);
    table_->verticalHeader()->hide();
    table_->verticalHeader()->setDefaultSectionSize(23);
    table_->setEditTriggers(QAbstractItemView::NoEditTriggers);
    table_->setSelectionBehavior(QAbstractItemView::SelectRows);
    table_->setSelectionMode(QAbstractItemView::SingleSelection);
    table_->setMinimumHeight(25 + 23 * (bandRows + 1) + 4);
    layout_->setObjectName("decayLayout");
    layout_->setAccessibleName(tr("Channels of the file"));
    for (const Layout layout : layouts) {
        layout_->addItem(QString(nameOf(layout)), static_cast<int>(layout));
    }
    save_->setObjectName("decaySave");

    auto* top = new QHBoxLayout;
    auto* from = new QVBoxLayout;
    from->setSpacing(1);
    from->addWidget(theme::caption(tr("An impulse from"), from_));
    from->addWidget(from_);
    top->addLayout(from, 1);
    top->addWidget(button_, 0, Qt::AlignBottom);
    auto* bottom = new QHBoxLayout;
    bottom->addWidget(theme::caption(tr("The response as a file with the channels"), layout_));
    bottom->addWidget(layout_);
    bottom->addWidget(save_);
    bottom->addStretch();
    auto* box = new QVBoxLayout(this);
    box->addLayout(top);
    box->addWidget(words_);
    box->addWidget(plot_, 1);
    box->addWidget(table_);
    box->addLayout(bottom);
    connect(button_, &QPushButton::clicked, this, [this] {
        target_.clear();
        measure();
    });
    connect(save_, &QPushButton::clicked, this, &DecayView::save);
    connect(table_, &QTableWidget::itemSelectionChanged, this, &DecayView::showBand);
    connect(&session_, &Session::selectionChanged, this, &DecayView::offer);
    connect(&session_, &Session::documentChanged, this, &DecayView::offer);
    connect(&watcher_, &QFutureWatcher<Answer>::finished, this, &DecayView::finished);
    connect(&watcher_, &QFutureWatcher<Answer>::progressValueChanged, this,
            [this](int value) { button_->setText(tr("Stop: %1 %").arg(value)); });
    offer();
    measure();
}

DecayView::~DecayView()
{
    watcher_.cancel();
    watcher_.waitForFinished();
}

void DecayView::layOutPlot()
{
    plot_->setBackground(theme::paper);
    for (QCPAxis* axis : {plot_->xAxis, plot_->yAxis}) {
        axis->setTickLabelFont(theme::number(7));
        axis->setLabelFont(theme::text(7.5));
        axis->grid()->setPen(QPen(theme::grid, 1));
    }
    plot_->xAxis->setLabel(tr("seconds after the sound itself"));
    plot_->yAxis->setLabel(tr("what is left, dB"));
    plot_->yAxis->setRange(deepest_db, 3.0);
    for (int row = 0; row <= bandRows; ++row) {
        plot_->addGraph();
    }
    QPen dashed(theme::ochre, 1.4, Qt::DashLine);
    plot_->addGraph()->setPen(dashed);
}

/// From where an impulse can come: a step ahead of the ears, and what is selected.
void DecayView::offer()
{
    const QString current = from_->currentData().toString();
    from_->clear();
    from_->addItem(tr("a metre ahead of your ears, as a clap of your hands"), QString());
    for (const EmitterId& id : session_.selection()) {
        if (const Emitter* emitter = session_.level().emitters.find(id);
            emitter != nullptr && emitter->kind != EmitterKind::bed) {
            from_->addItem(QString::fromStdString(emitter->name), QString::fromStdString(id.text));
        }
    }
    from_->setCurrentIndex(std::max(from_->findData(current), 0));
}

ImpulseQuestion DecayView::question() const
{
    const Pose ears = playback_.ears();
    Vec3 source = ears.at + frameOf(ears).ahead;
    if (const Emitter* emitter = session_.level().emitters.find({from_->currentData().toString().toStdString()})) {
        source = emitter->at;
    }
    const ResolveFile resolve = [this](const std::string& file) { return session_.resolve(file); };
    return {.project = session_.document(),
            .level = session_.levelId(),
            .ground = session_.loadedLevel().ground,
            .responses = responsesOf(session_.level(), session_.bank(), resolve, Loading::later),
            .ears = ears,
            .source = source,
            .layout = Layout::mono,
            .rate = session_.bank().rate()};
}

void DecayView::measure()
{
    if (running_) {
        watcher_.cancel();
        return;
    }
    running_ = true;
    save_->setEnabled(false);
    ImpulseQuestion asked = question();
    if (!target_.isEmpty()) {
        asked.layout = static_cast<Layout>(layout_->currentData().toInt());
    }
    const RoomMap& map = playback_.hearing().world().rooms();
    const std::uint32_t room = map.roomAt(asked.ears.at);
    where_ = room == RoomMap::outside ? tr("outside") : QString::fromStdString(session_.level().rooms[room]->name);
    watcher_.setFuture(QtConcurrent::run(&workPool(), [asked](QPromise<Answer>& promise) {
        promise.setProgressRange(0, 100);
        Answer answer;
        answer.response = impulseResponse(asked, [&](double share) {
            promise.setProgressValue(static_cast<int>(share * 100.0));
            return !promise.isCanceled();
        });
        if (answer.response) {
            answer.report = analyseDecay(answer.response->interleaved, channelsOf(asked.layout), asked.rate);
        }
        promise.addResult(std::move(answer));
    }));
    button_->setText(tr("Stop: %1 %").arg(0));
}

void DecayView::finished()
{
    running_ = false;
    button_->setText(tr("Measure again"));
    save_->setEnabled(true);
    const QString target = std::exchange(target_, {});
    if (watcher_.isCanceled() || watcher_.future().resultCount() == 0 || !watcher_.result().response) {
        words_->setText(tr("Stopped: nothing was measured."));
        return;
    }
    const Answer answer = watcher_.result();
    if (target.isEmpty()) {
        report_ = answer.report;
        showReport();
        return;
    }
    try {
        SoundWriter writer(target.toStdString(), static_cast<int>(channelsOf(answer.response->layout)), answer.response->rate);
        writer.write(answer.response->interleaved);
        writer.finish();
        words_->setText(tr("Written to %1.").arg(target));
    } catch (const FileError& error) {
        words_->setText(QString::fromUtf8(error.what()));
    }
}

void DecayView::save()
{
    const QString target = QFileDialog::getSaveFileName(
        this, tr("Save the impulse response as"), QString::fromStdString((session_.folder() / "impulse response.wav").string()),
        tr("WAV files (*.wav)"));
    if (!target.isEmpty()) {
        target_ = target;
        measure();
    }
}

void DecayView::showReport()
{
    const RoomMap& map = playback_.hearing().world().rooms();
    const std::uint32_t room = map.roomAt(playback_.ears().at);
    const Reverb* reverb = room != RoomMap::outside ? &session_.level().rooms[room]->reverb : nullptr;
    const bool rings = reverb != nullptr && reverb->on && reverb->tail != Tail::none;
    const Decay& middle = report_->bands[firstShown];
    words_->setText(!middle.edt_s ? tr("%1: nothing comes back but the sound itself.").arg(where_)
                                  : tr("%1: at 1 kHz it dies away in %2, and speech is %3 in it (C50 %4 dB). Green: the octave "
                                       "chosen below; dashed: as it was set.")
                                        .arg(where_, seconds(middle.t20_s ? middle.t20_s : middle.edt_s),
                                             middle.c50_db > 3.0    ? tr("clear")
                                             : middle.c50_db > -3.0 ? tr("fairly clear")
                                                                    : tr("hard to follow"),
                                             theme::signedNumber(middle.c50_db, 1)));
    double longest_s = 0.4;
    for (int row = 0; row <= bandRows; ++row) {
        const bool band = row < bandRows;
        const auto index = static_cast<std::size_t>(row);
        const Decay& decay = band ? report_->bands[index] : report_->all;
        const QString texts[] = {band ? hertz(octaveBands_hz[index]) : tr("all"),
                                 seconds(decay.edt_s),
                                 seconds(decay.t20_s),
                                 seconds(decay.t30_s),
                                 band && rings ? seconds(reverb->rt60_s[index]) : QStringLiteral("–"),
                                 theme::signedNumber(decay.c50_db, 1) + " dB",
                                 theme::decibels(decay.level_db) + " dB"};
        for (int column = 0; column < 7; ++column) {
            auto* item = new QTableWidgetItem(texts[column]);
            item->setTextAlignment(column == 0 ? Qt::AlignLeft | Qt::AlignVCenter : Qt::AlignRight | Qt::AlignVCenter);
            table_->setItem(row, column, item);
        }
        QVector<double> x;
        QVector<double> y;
        for (std::size_t i = 0; i < decay.left_db.size(); ++i) {
            x << static_cast<double>(i) * DecayReport::every_s;
            y << static_cast<double>(decay.left_db[i]);
            if (y.last() > deepest_db) {
                longest_s = std::max(longest_s, x.last());
            }
        }
        plot_->graph(row)->setData(x, y, true);
    }
    plot_->xAxis->setRange(0.0, longest_s);
    if (table_->currentRow() < 0) {
        table_->selectRow(firstShown);
    }
    showBand();
}

void DecayView::showBand()
{
    const int shown = table_->currentRow();
    for (int row = 0; row <= bandRows; ++row) {
        plot_->graph(row)->setPen(row == shown ? QPen(theme::verdigris, 2.4) : QPen(theme::faint, 0.8));
        plot_->graph(row)->setLayer(row == shown ? "axes" : "main");
    }
    QCPGraph* set = plot_->graph(bandRows + 1);
    const QTableWidgetItem* item = shown >= 0 ? table_->item(shown, 4) : nullptr;
    bool isNumber = false;
    const double rt60_s = item != nullptr ? item->text().section(' ', 0, 0).toDouble(&isNumber) : 0.0;
    set->setVisible(isNumber);
    if (isNumber) {
        // Through where the late field begins to tell: 5 dB down.
        const Decay& decay = shown < bandRows ? report_->bands[static_cast<std::size_t>(shown)] : report_->all;
        const auto five = std::find_if(decay.left_db.begin(), decay.left_db.end(), [](float db) { return db < -5.0F; });
        const double from_s = static_cast<double>(five - decay.left_db.begin()) * DecayReport::every_s;
        set->setData({from_s, from_s + rt60_s}, {-5.0, -65.0}, true);
    }
    plot_->replot();
}

} // namespace stone
