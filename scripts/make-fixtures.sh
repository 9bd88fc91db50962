#!/usr/bin/env bash
# Makes the small media files of tests/fixtures anew (needs ffmpeg). The results are committed.
set -eu
cd "$(dirname "$0")/../tests/fixtures"
ff() { ffmpeg -v error -y -fflags +bitexact "$@"; }
X264="-c:v libx264 -preset veryslow -pix_fmt yuv420p -flags +bitexact"
tone="sine=frequency=440:sample_rate=48000"
# Sixteen bars across say the frame number in binary (white is 1), lowest bit left.
bits="geq=lum='if(mod(floor(N/pow(2,floor(X/(W/16)))),2),235,16)':cb=128:cr=128"
# Clicks of 2 ms at 0.5, 1.5, 2.5 ... seconds, and white pictures for 2 frames from the same times on.
clicks="aevalsrc='if(lt(mod(t+0.5,1),0.002)*gt(t,0.25),0.8*sin(2*PI*3000*t),0)':s=48000"

ff -f lavfi -i "color=gray:s=320x180:r=30:d=6" -f lavfi -i "$clicks:d=6" -vf "geq=lum='if(gt(mod(N+15,30),1)+lt(N,8),60+40*sin(X/9)*cos(Y/7),235)':cb=128:cr=128,setparams=colorspace=bt709:color_primaries=bt709:color_trc=bt709:range=tv" $X264 -x264-params keyint=60 -colorspace bt709 -color_primaries bt709 -color_trc bt709 -c:a aac -b:a 64k hits.mp4
ff -f lavfi -i "color=gray:s=1280x720:r=30:d=8" -vf "$bits" $X264 -x264-params "keyint=60:min-keyint=60:scenecut=0:bframes=2" numbered.mp4
ff -f lavfi -i "testsrc=s=853x479:r=30:d=1" -pix_fmt yuv420p -c:v libvpx-vp9 -b:v 200k odd.webm
ff -f lavfi -i "testsrc=s=320x180:r=30:d=1" $X264 upright.mp4
ff -i upright.mp4 -c copy -metadata:s:v:0 rotate=90 rotated.mp4
rm upright.mp4
ff -f lavfi -i "testsrc=s=160x90:r=30000/1001:d=2" $X264 ntsc.mp4
ff -f lavfi -i "color=gray:s=320x180:r=60:d=2" -vf "$bits,select='not(mod(n,2))+lt(mod(n,20),7)'" -fps_mode vfr $X264 variable.mp4
ff -f lavfi -i "testsrc=s=160x90:r=30:d=1" -frames:v 1 $X264 one-frame.mp4
ff -f lavfi -i "testsrc=s=160x90:r=30:d=1" -frames:v 0 $X264 no-frames.mp4 || true
ff -f lavfi -i "testsrc=s=160x90:r=30:d=1" -f lavfi -i "$clicks:d=2" -filter_complex "[1]asetpts=PTS+1/TB[a]" -map 0 -map "[a]" $X264 -c:a aac -b:a 48k late-sound.mp4
ff -f lavfi -i "testsrc=s=160x90:r=30:d=1" $X264 silent.mp4
ff -f lavfi -i "$clicks:d=3" -c:a aac -b:a 48k sound-only.m4a
ff -f lavfi -i "testsrc2=s=320x180:r=30:d=4" $X264 -movflags +faststart whole.mp4
head -c $(( $(stat -c %s whole.mp4) * 55 / 100 )) whole.mp4 > truncated.mp4
ff -i whole.mp4 -c copy moov-last.mp4
head -c $(( $(stat -c %s moov-last.mp4) * 60 / 100 )) moov-last.mp4 > no-moov.mp4
rm whole.mp4 moov-last.mp4
ff -f lavfi -i "testsrc=s=160x90:r=30:d=0.5" -c:v mpeg4 -b:v 100k old-codec.mp4
ff -f lavfi -i "testsrc=s=160x90:r=30:d=0.5" -pix_fmt yuv420p10le -c:v libvpx-vp9 -profile:v 2 -b:v 100k -color_primaries bt2020 -color_trc smpte2084 -colorspace bt2020nc hdr.webm
ff -f lavfi -i "testsrc=s=160x90:r=30:d=0.5" -pix_fmt yuv420p10le -c:v libvpx-vp9 -profile:v 2 -b:v 100k -color_primaries bt709 -color_trc bt709 -colorspace bt709 ten-bit.webm
colour="color=c=0xC83C28:s=160x90:r=30:d=0.5"
ff -f lavfi -i "$colour" -vf "scale=out_color_matrix=bt709:out_range=tv,format=yuv420p" $X264 -colorspace bt709 -color_primaries bt709 -color_trc bt709 -color_range tv red-709.mp4
ff -f lavfi -i "$colour" -vf "scale=out_color_matrix=bt601:out_range=tv,format=yuv420p" $X264 -colorspace smpte170m -color_primaries smpte170m -color_trc smpte170m -color_range tv red-601.mp4
ff -f lavfi -i "$colour" -vf "scale=out_color_matrix=bt709:out_range=pc,format=yuvj420p" -c:v libx264 -preset veryslow -colorspace bt709 -color_primaries bt709 -color_trc bt709 -color_range pc red-full.mp4
ff -f lavfi -i "color=c=0xC83C28:s=160x90:r=30:d=0.3" -pix_fmt gbrp -c:v libvpx-vp9 -lossless 1 red-rgb.webm
ff -f lavfi -i "testsrc=s=160x90:r=30:d=2" -f lavfi -i "$tone:d=2" -f lavfi -i "$clicks:d=2" -map 0 -map 1 -map 2 $X264 -c:a libopus -b:a 32k -metadata:s:a:0 title=Voice -metadata:s:a:1 title=Game two-tracks.mkv
ff -f lavfi -i "color=gray:s=32x32:r=1:d=10800" -f lavfi -i "anullsrc=r=8000:cl=mono:d=10800" $X264 -x264-params keyint=600 -c:a libopus -b:a 6k -vbr on -frame_duration 60 three-hours.mkv
ff -f lavfi -i "testsrc=s=160x90:r=30:d=1" -c:v libvpx -b:v 100k vp8.webm
ff -f lavfi -i "testsrc=s=160x90:r=30:d=0.5" -c:v libaom-av1 -cpu-used 8 -b:v 60k av1.mp4 || true
for c in "flac flac" "mp3 libmp3lame" "ogg libvorbis" "wav pcm_s16le"; do set -- $c; ff -f lavfi -i "$clicks:d=2" -c:a $2 clicks.$1; done
ff -i ../../demo/lantern-drift.mp4 -t 5 -vn -af volume=-24dB -c:a aac -b:a 96k quiet.m4a
