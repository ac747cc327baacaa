// SPDX-License-Identifier: GPL-3.0-or-later
#include "exports/rendered.h"
#include "media/sound_file.h"
#include "project/read.h"
#include "support/fixtures.h"
#include "support/one_of_many.h"

#include <QTemporaryDir>
#include <QTest>

#include <cmath>

namespace tst_rendered
{

using namespace stone;

namespace
{

struct Yard {
    QTemporaryDir folder;
    std::shared_ptr<const Project> project;
    SoundBank bank{48'000};

    Yard()
    {
        fixture::writeTone(path() / "tone.wav", 2400.0, 0.5, 48'000, 1, 0.5);
        project = std::make_shared<const Project>(readProjectText(R"({
          "name": "Yard",
          "sounds": [{"id": "s", "name": "Tone", "file": "tone.wav", "loop": true}, {"id": "o", "name": "Once", "file": "tone.wav"}],
          "levels": [{"id": "y", "name": "Yard",
            "emitters": [{"id": "a", "name": "Lamp", "at": [5, 0, 1.6], "sound": "s"}],
            "rooms": [{"id": "hall", "name": "Hall", "at": [0, 0, 0], "shape": {"is": "box", "size_m": [20, 20, 6]},
                       "reverb": {"rt60_s": [1.2, 1.2, 1.2, 1.2, 1.2, 1.2, 1.2, 1.2]}},
                      {"id": "den", "name": "Den", "at": [40, 0, 0], "shape": {"is": "box", "size_m": [4, 4, 3]}, "reverb": {"on": false}}],
            "walks": [{"id": "w", "name": "Past it", "points": [{"t_s": 0, "at": [-2, 0, 0], "heading_deg": 0}, {"t_s": 2, "at": [2, 0, 0], "heading_deg": 0}]}]}]})",
                                                                  "yard")
                                                      .project);
    }
    std::filesystem::path path() const { return folder.path().toStdString(); }
    Rendering how()
    {
        return {.project = project,
                .level = {"y"},
                .ground = {},
                .resolve = filesInside(path()),
                .bank = bank,
                .rate = 48'000,
                .folder = path() / "out",
                .progress = {}};
    }
};

double channel_db(const SampleBuffer& buffer, std::size_t channel)
{
    double sum = 1e-30;
    for (const float x : buffer.channels[channel]) {
        sum += static_cast<double>(x) * static_cast<double>(x);
    }
    return 10.0 * std::log10(sum / static_cast<double>(buffer.frames()));
}

} // namespace

/// What is rendered for whoever does less by himself, measured in the files.
class TestRendered : public QObject
{
    Q_OBJECT

private slots:
    void aSoundFromAllRound_data()
    {
        QTest::addColumn<int>("layout");
        QTest::addRow("headphones") << static_cast<int>(Layout::binaural);
        QTest::addRow("stereo") << static_cast<int>(Layout::stereo);
    }
    void aSoundFromAllRound()
    {
        QFETCH(int, layout);
        Yard yard;
        const auto files = renderDirections(yard.how(), *yard.project->sounds[0], 8, static_cast<Layout>(layout));
        QCOMPARE(files.size(), 8U);
        QCOMPARE(files[2].file.filename().string(), std::string("tone-090.wav"));
        std::vector<double> side_db;
        for (const Rendered& one : files) {
            const auto buffer = readSoundFile(one.file, 48'000, false);
            QCOMPARE(buffer->channelCount(), 2U);
            QCOMPARE(buffer->frames(), 24'000U); // once round
            side_db.push_back(channel_db(*buffer, 1) - channel_db(*buffer, 0));
            const double all_db = 10.0 * std::log10(std::pow(10.0, channel_db(*buffer, 0) / 10.0) +
                                                    std::pow(10.0, channel_db(*buffer, 1) / 10.0));
            if (layout == static_cast<int>(Layout::stereo)) {
                // A sine of a half is at -9.03 dB, from wherever it comes.
                QVERIFY2(std::abs(all_db - -9.03) < 0.1, qPrintable(QString::number(all_db)));
            }
        }
        QVERIFY(std::abs(side_db[0]) < 0.2 && std::abs(side_db[4]) < 0.2);
        QVERIFY(side_db[2] > 6.0 && side_db[6] < -6.0);
        QVERIFY(std::abs(side_db[1] + side_db[7]) < 0.5); // left and right are alike
        const auto once = renderDirections(yard.how(), *yard.project->sounds[1], 1, Layout::mono);
        QVERIFY(once.size() == 1 && once[0].seconds >= 0.5 && once[0].seconds < 0.7);
    }

    void aWalkInSeveralLayouts()
    {
        Yard yard;
        const auto files = renderLayouts(yard.how(), *yard.project->levels[0]->walks[0],
                                         {Layout::stereo, Layout::binaural, Layout::surround51});
        QCOMPARE(files.size(), 3U);
        QCOMPARE(files[0].file.filename().string(), std::string("past-it-stereo.wav"));
        const std::size_t channels[] = {2, 2, 6};
        for (std::size_t i = 0; i < 3; ++i) {
            const auto buffer = readSoundFile(files[i].file, 48'000, false);
            QCOMPARE(buffer->channelCount(), channels[i]);
            QCOMPARE(buffer->frames(), 96'000U);
            const double side_db = channel_db(*buffer, 1) - channel_db(*buffer, 0); // it stands at the right, in a room
            QVERIFY2(side_db > 0.7, qPrintable(QString("%1: %2 dB").arg(i).arg(side_db)));
        }
    }

    /// The decay of the file is the one that the room was asked for.
    void roomsAnswerAsTheyShould()
    {
        Yard yard;
        const auto files = renderResponses(yard.how(), Layout::mono);
        QCOMPARE(files.size(), 1U); // the den has no reverb
        QCOMPARE(files[0].file.filename().string(), std::string("hall.wav"));
        const auto buffer = readSoundFile(files[0].file, 48'000, false);
        const auto& x = buffer->channels[0];
        const auto energyFrom_db = [&](double from_s) {
            double sum = 1e-30;
            for (auto i = static_cast<std::size_t>(from_s * 48'000); i < x.size(); ++i) {
                sum += static_cast<double>(x[i]) * static_cast<double>(x[i]);
            }
            return 10.0 * std::log10(sum);
        };
        // Schroeder's curve between 0.2 and 0.6 s falls by 60 dB in the RT60.
        const double rt60_s = 60.0 * 0.4 / (energyFrom_db(0.2) - energyFrom_db(0.6));
        QVERIFY2(std::abs(rt60_s - 1.2) < 0.12, qPrintable(QString::number(rt60_s)));
    }

    void stoppedItLeavesNothingHalf()
    {
        Yard yard;
        Rendering how = yard.how();
        int asked = 0;
        how.progress = [&](double) { return ++asked < 1; };
        const auto files = renderLayouts(how, *yard.project->levels[0]->walks[0], {Layout::stereo, Layout::binaural});
        QVERIFY(files.size() < 2);
        std::size_t there = 0;
        if (std::filesystem::exists(how.folder)) {
            for (const auto& entry : std::filesystem::directory_iterator(how.folder)) {
                ++there;
                QVERIFY(entry.path().extension() == ".wav");
            }
        }
        QCOMPARE(there, files.size());
    }
};

} // namespace tst_rendered

STONE_TEST(tst_rendered, TestRendered)
#include "tst_rendered.moc"
