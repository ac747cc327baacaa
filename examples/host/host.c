/* SPDX-License-Identifier: MPL-2.0 */
/* Plays a walk of a project through libstoneecho, as a game would, and writes what is heard as a WAV file:
 *
 *     cc -std=c99 host.c $(pkg-config --cflags --libs stoneecho) -o host
 *     ./host /usr/share/stone-echo/demo/vellmoor-halt "Tea room and back" stereo 48000 out.wav
 *
 * A game has a thread that decides and the sound card's thread that renders; here both are one after the other.
 */
#include <stdint.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include <stone_echo.h>

enum { blockFrames = 512, mostChannels = 16, mostLoudest = 3 };

static void putWhole(FILE* file, uint32_t value, int bytes)
{
    int i;
    for (i = 0; i < bytes; ++i) {
        fputc((int)(value >> (8 * i) & 0xFFU), file);
    }
}

/* The head of a WAV file of 32 bit floats. */
static void putHead(FILE* file, uint32_t channels, uint32_t rate, uint32_t frames)
{
    const uint32_t bytes = frames * channels * 4;
    fwrite("RIFF", 1, 4, file);
    putWhole(file, 36 + bytes, 4);
    fwrite("WAVEfmt ", 1, 8, file);
    putWhole(file, 16, 4);
    putWhole(file, 3, 2);
    putWhole(file, channels, 2);
    putWhole(file, rate, 4);
    putWhole(file, rate * channels * 4, 4);
    putWhole(file, channels * 4, 2);
    putWhole(file, 32, 2);
    fwrite("data", 1, 4, file);
    putWhole(file, bytes, 4);
}

/* The loudest things that are heard now, and why the first of them is as loud as it is. */
static void tellLoudest(const stone_player* player)
{
    size_t shown;
    double below = 1e9;
    for (shown = 0; shown < mostLoudest; ++shown) {
        size_t i;
        size_t best = SIZE_MAX;
        double level = -60.0;
        stone_heard heard = {sizeof heard, NULL, 0, 0, 0, 0, 0};
        for (i = 0; i < stone_heard_count(player); ++i) {
            if (stone_heard_at(player, i, &heard) == STONE_OK && heard.level_db > level && heard.level_db < below) {
                level = heard.level_db;
                best = i;
            }
        }
        if (best == SIZE_MAX || stone_heard_at(player, best, &heard) != STONE_OK) {
            break;
        }
        below = level;
        printf("%6.1f dB  %s, %.1f m\n", heard.level_db, heard.name, heard.distance_m);
        for (i = 0; shown == 0 && i < stone_term_count(player, best); ++i) {
            stone_term term = {sizeof term, NULL, 0};
            if (stone_term_at(player, best, i, &term) == STONE_OK) {
                printf("           %6.1f dB  %s\n", term.db, term.name);
            }
        }
    }
}

static double secondsOf(const stone_project* project, const char* walk)
{
    size_t i;
    for (i = 0; i < stone_walk_count(project, 0); ++i) {
        if (strcmp(stone_walk_name(project, 0, i), walk) == 0) {
            return stone_walk_seconds(project, 0, i);
        }
    }
    return -1.0;
}

static int play(stone_player* player, const char* walk, double seconds, int rate, FILE* out)
{
    static float block[blockFrames * mostChannels];
    const size_t channels = stone_channels(player);
    const uint64_t frames = (uint64_t)(seconds * rate + 0.5);
    uint64_t done;
    uint64_t step = 0;
    stone_counts counts = {sizeof counts, 0, 0, 0, 0, 0, 0, 0, 0, 0};
    putHead(out, (uint32_t)channels, (uint32_t)rate, (uint32_t)frames);
    for (done = 0; done < frames;) {
        const size_t now = frames - done < blockFrames ? (size_t)(frames - done) : blockFrames;
        /* As many steps as this block begins: each is told where the character is at its end. */
        while (step * STONE_STEP_FRAMES < done + now) {
            ++step;
            if (stone_along_walk(player, walk, (double)(step * STONE_STEP_FRAMES) / rate) != STONE_OK ||
                stone_decide(player) != STONE_OK) {
                return 0;
            }
        }
        stone_render(player, block, now);
        if (fwrite(block, sizeof(float) * channels, now, out) != now) {
            return 0;
        }
        done += now;
    }
    stone_count(player, &counts);
    printf("%.1f s, %zu emitters, %zu in reach, %zu sounding, %llu late steps\n", counts.time_s, counts.emitters, counts.inReach,
           counts.sounding, (unsigned long long)counts.lateSteps);
    tellLoudest(player);
    return 1;
}

int main(int argc, char** argv)
{
    char why[512];
    stone_project* project = NULL;
    stone_player* player = NULL;
    stone_options options = {sizeof options, NULL, NULL, 0};
    double seconds;
    FILE* out;
    int good;
    if (argc != 6) {
        fprintf(stderr, "host PROJECT WALK LAYOUT RATE OUT.wav\n");
        return 2;
    }
    options.layout = argv[3];
    options.rate = atoi(argv[4]);
    if (stone_open(argv[1], &project, why, sizeof why) != STONE_OK) {
        fprintf(stderr, "%s\n", why);
        return 1;
    }
    seconds = secondsOf(project, argv[2]);
    if (seconds < 0.0) {
        fprintf(stderr, "%s has no walk \"%s\" in its first level\n", argv[1], argv[2]);
        stone_close(project);
        return 1;
    }
    if (stone_play(project, &options, &player, why, sizeof why) != STONE_OK) {
        fprintf(stderr, "%s\n", why);
        stone_close(project);
        return 1;
    }
    out = fopen(argv[5], "wb");
    good = out != NULL && play(player, argv[2], seconds, options.rate, out);
    if (out != NULL) {
        good = fclose(out) == 0 && good;
    }
    if (!good) {
        fprintf(stderr, "%s: could not be written\n", argv[5]);
    }
    stone_stop(player);
    stone_close(project);
    return good ? 0 : 1;
}
