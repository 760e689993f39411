/* Writes linear timecode made by libltc as 32-bit floats to stdout:
 * ltc_box RATE FPS STANDARD(0: 525, 1: 625, 2: 1125, 3: film) DROP SECONDS HH MM SS FF LEVEL_DBFS DATE */
#include <ltc.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

int main(int argc, char **argv) {
    if (argc != 12) return 2;
    double rate = atof(argv[1]), fps = atof(argv[2]);
    int standard = atoi(argv[3]), drop = atoi(argv[4]), date = atoi(argv[11]);
    double seconds = atof(argv[5]);
    static const enum LTC_TV_STANDARD standards[] = {LTC_TV_525_60, LTC_TV_625_50, LTC_TV_1125_60, LTC_TV_FILM_24};
    LTCEncoder *box = ltc_encoder_create(rate, fps, standards[standard], date ? LTC_USE_DATE : 0);
    if (!box) return 1;
    ltc_encoder_set_volume(box, atof(argv[10]));
    SMPTETimecode label;
    memset(&label, 0, sizeof label);
    strcpy(label.timezone, "+0100");
    label.years = 26, label.months = 5, label.days = 14;
    label.hours = atoi(argv[6]), label.mins = atoi(argv[7]), label.secs = atoi(argv[8]), label.frame = atoi(argv[9]);
    ltc_encoder_set_timecode(box, &label);
    LTCFrame frame;
    ltc_encoder_get_frame(box, &frame);
    frame.dfbit = drop;
    ltc_frame_set_parity(&frame, standards[standard]);
    ltc_encoder_set_frame(box, &frame);
    for (double done = 0; done < seconds;) {
        ltc_encoder_encode_frame(box);
        ltcsnd_sample_t *samples;
        int count = ltc_encoder_get_bufferptr(box, &samples, 1);
        for (int i = 0; i < count; i++) {
            float value = (samples[i] - 128) / 128.0f;
            fwrite(&value, sizeof value, 1, stdout);
        }
        done += count / rate;
        ltc_encoder_inc_timecode(box);
    }
    ltc_encoder_free(box);
    return 0;
}
