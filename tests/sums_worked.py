"""Lines of quick sums with their answers, worked outside this program.

Copper by ASTM B258 (diameter 0.127 x 92^((36 - n) / 39) mm) and IACS (1.7241e-8 ohm m), 2 % for
stranding; metric wires by ISO 6722-1, at most so many mohm/m at 20 deg C (from memory); feet of
0.3048 m; Ohm's law; a helix. Each line: what is typed | which figure | its value.
"""

WORKED = """
20 awg 5 m | ohm | 0.1698722
0.62 m 20 awg | ohm | 0.02106415
20 gauge 62 cm | ohm | 0.02106415
1500 mm 20 gauge | ohm | 0.05096165
18 AWG 10 ft | ohm | 0.06512579
10 feet 18 AWG | ohm | 0.06512579
AWG 18 5'6" | ohm | 0.03581919
5 ft 6 in AWG 18 | ohm | 0.03581919
#18 22 in | ohm | 0.01193973
22 inches #18 | ohm | 0.01193973
16 ga 3 metres | ohm | 0.04031301
4,5 m 16 ga | ohm | 0.06046951
14 awg 1 foot | ohm | 0.002575875
5'6 14 awg | ohm | 0.01416731
awg14 5 m | ohm | 0.04225517
0.62 m awg14 | ohm | 0.005239641
12 gauge 62 cm | ohm | 0.003295242
1500 mm 12 gauge | ohm | 0.00797236
10 AWG 10 ft | ohm | 0.01018818
10 feet 10 AWG | ohm | 0.01018818
8 awg 5'6" | ohm | 0.003524074
5 ft 6 in 8 awg | ohm | 0.003524074
6 AWG 22 in | ohm | 0.0007387707
22 inches 6 AWG | ohm | 0.0007387707
4 awg 3 metres | ohm | 0.002494367
4,5 m 4 awg | ohm | 0.003741551
2 AWG 1 foot | ohm | 0.0001593822
5'6 2 AWG | ohm | 0.0008766024
1/0 awg 5 m | ohm | 0.001644299
0.62 m 1/0 awg | ohm | 0.0002038931
0 awg 62 cm | ohm | 0.0002038931
1500 mm 0 awg | ohm | 0.0004932898
2/0 10 ft | ohm | 0.0007949114
10 feet 2/0 | ohm | 0.0007949114
00 awg 5'6" | ohm | 0.0004372013
5 ft 6 in 00 awg | ohm | 0.0004372013
00 22 in | ohm | 0.0001457338
22 inches 00 | ohm | 0.0001457338
000 3 metres | ohm | 0.000620466
4,5 m 000 | ohm | 0.000930699
3/0 AWG 1 foot | ohm | 6.303934e-05
5'6 3/0 AWG | ohm | 0.0003467164
0000 awg 5 m | ohm | 0.0008200865
0.62 m 0000 awg | ohm | 0.0001016907
4/0 62 cm | ohm | 0.0001016907
1500 mm 4/0 | ohm | 0.0002460259
0.35 mm2, 10 ft | ohm | 0.1658112
0.35 mm², 10 feet | ohm | 0.1658112
0.35 sq mm, 5'6" | ohm | 0.09119616
0.35mm2, 5 ft 6 in | ohm | 0.09119616
0.35 mm^2, 22 in | ohm | 0.03039872
0.5 mm², 22 inches | ohm | 0.02073148
0.5 sq mm, 3 metres | ohm | 0.1113
0.5mm2, 4,5 m | ohm | 0.16695
0.5 mm^2, 1 foot | ohm | 0.01130808
0.5 qmm, 5'6 | ohm | 0.06219444
0.75 sq mm, 5 m | ohm | 0.1235
0.75mm2, 0.62 m | ohm | 0.015314
0.75 mm^2, 62 cm | ohm | 0.015314
0.75 qmm, 1500 mm | ohm | 0.03705
0.75 mm2, 10 ft | ohm | 0.0752856
1mm2, 10 feet | ohm | 0.056388
1 mm^2, 5'6" | ohm | 0.0310134
1 qmm, 5 ft 6 in | ohm | 0.0310134
1 mm2, 22 in | ohm | 0.0103378
1 mm², 22 inches | ohm | 0.0103378
1.5 mm^2, 3 metres | ohm | 0.0381
1.5 qmm, 4,5 m | ohm | 0.05715
1.5 mm2, 1 foot | ohm | 0.00387096
1.5 mm², 5'6 | ohm | 0.02129028
1.5 sq mm, 5 m | ohm | 0.0635
2.5 qmm, 0.62 m | ohm | 0.004712
2.5 mm2, 62 cm | ohm | 0.004712
2.5 mm², 1500 mm | ohm | 0.0114
2.5 sq mm, 10 ft | ohm | 0.0231648
2.5mm2, 10 feet | ohm | 0.0231648
4 mm2, 5'6" | ohm | 0.007895844
4 mm², 5 ft 6 in | ohm | 0.007895844
4 sq mm, 22 in | ohm | 0.002631948
4mm2, 22 inches | ohm | 0.002631948
4 mm^2, 3 metres | ohm | 0.01413
6 mm², 4,5 m | ohm | 0.01413
6 sq mm, 1 foot | ohm | 0.000957072
6mm2, 5'6 | ohm | 0.005263896
6 mm^2, 5 m | ohm | 0.0157
6 qmm, 0.62 m | ohm | 0.0019468
10 sq mm, 62 cm | ohm | 0.0011284
10mm2, 1500 mm | ohm | 0.00273
10 mm^2, 10 ft | ohm | 0.00554736
10 qmm, 10 feet | ohm | 0.00554736
10 mm2, 5'6" | ohm | 0.003051048
16mm2, 5 ft 6 in | ohm | 0.001944624
16 mm^2, 22 in | ohm | 0.000648208
16 qmm, 22 inches | ohm | 0.000648208
16 mm2, 3 metres | ohm | 0.00348
16 mm², 4,5 m | ohm | 0.00522
25 mm^2, 1 foot | ohm | 0.0002264664
25 qmm, 5'6 | ohm | 0.001245565
25 mm2, 5 m | ohm | 0.003715
25 mm², 0.62 m | ohm | 0.00046066
25 sq mm, 62 cm | ohm | 0.00046066
35 qmm, 1500 mm | ohm | 0.0007905
35 mm2, 10 ft | ohm | 0.001606296
35 mm², 10 feet | ohm | 0.001606296
35 sq mm, 5'6" | ohm | 0.0008834628
35mm2, 5 ft 6 in | ohm | 0.0008834628
50 mm2, 22 in | ohm | 0.0002056384
50 mm², 22 inches | ohm | 0.0002056384
50 sq mm, 3 metres | ohm | 0.001104
50mm2, 4,5 m | ohm | 0.001656
50 mm^2, 1 foot | ohm | 0.0001121664
70 mm², 5'6 | ohm | 0.0004341876
70 sq mm, 5 m | ohm | 0.001295
70mm2, 0.62 m | ohm | 0.00016058
70 mm^2, 62 cm | ohm | 0.00016058
70 qmm, 1500 mm | ohm | 0.0003885
0.5 mm2 2 m there and back | ohm | 0.1484
0.5 mm2 2 m one way | ohm | 0.0742
1.5 mm2 2 m there and back | ohm | 0.0508
1.5 mm2 2 m one way | ohm | 0.0254
4 mm2 2 m there and back | ohm | 0.01884
4 mm2 2 m one way | ohm | 0.00942
16 mm2 2 m there and back | ohm | 0.00464
16 mm2 2 m one way | ohm | 0.00232
35 mm2 2 m there and back | ohm | 0.002108
35 mm2 2 m one way | ohm | 0.001054
power 560 ohm 12 volts | watts | 0.2571429
power 2 ohm 6 volts | watts | 18
power 4.7 ohm 24 volts | watts | 122.5532
power 120 ohm 5 volts | watts | 0.2083333
power 1000 ohm 14.4 volts | watts | 0.20736
power 0.5 ohm 2 volts | watts | 8
power 2 ohms 3 amps | watts | 18
power 0.1 ohms 20 amps | watts | 40
power 4.7 ohms 0.5 amps | watts | 1.175
power 560 ohms 0.02 amps | watts | 0.224
power 1.5 ohms 4 amps | watts | 24
power 1 kohm 20 mA | watts | 0.4
power 50 mohm 30 A | watts | 45
resistor 14.4 V 2 V 20 mA | ohm | 620
resistor 2 V 14.4 V 0.02 A | watts | 0.248
resistor 12 V 6 V 350 mA | ohm | 17.14286
resistor 6 V 12 V 0.35 A | watts | 2.1
resistor 24 V 12 V 250 mA | ohm | 48
resistor 12 V 24 V 0.25 A | watts | 3
resistor 12 V 3.3 V 15 mA | ohm | 580
resistor 3.3 V 12 V 0.015 A | watts | 0.1305
resistor 13.8 V 2 V 10 mA | ohm | 1180
resistor 2 V 13.8 V 0.01 A | watts | 0.118
resistor 24 V 6 V 100 mA | ohm | 180
resistor 6 V 24 V 0.1 A | watts | 1.8
twist 2 m 30 mm 2.1 mm | length_m | 2.04779
twist 1 m 25 mm 1.6 mm | length_m | 1.020013
twist 3.5 m 33 mm 2.4 mm | length_m | 3.590193
twist 0.8 m 20 mm 1.9 mm | length_m | 0.8348694
twist 10 m 40 mm 3 mm | length_m | 10.27383
14 AWG | area_mm2 | 2.080908
gauge 10 awg | area_mm2 | 5.261155
1/0 awg | area_mm2 | 53.47512
0000 | area_mm2 | 107.2193
size 20 awg | area_mm2 | 0.5176192
4 gauge | area_mm2 | 21.15064
#8 | area_mm2 | 8.365564
awg 2 | area_mm2 | 33.63083
"""
