"""What an estimate in space may show: made by `python -m tools.people.gate`, not by hand.

From 10 filmed people, from the open side. Per measure: what the estimate is off on average, which is taken out; the
doubt that is left, each person judged by what the others were off, with half of what was taken out; the standard
deviation over deliveries. A measure is there when what is left is below half of the last.
"""

# fmt: off
OPEN: dict[str, dict[str, tuple[float, float, float]]] = {
    "bare": {
        # shut: drive_hip_extension_at_landing, off 6.3 on average, left 7.48 against 11.2, 10 people
        # shut: finish_arm_across, off 0.827 on average, left 7.79 against 3.81, 10 people
        # shut: glove_distance_at_release, off 2.02 on average, left 2.44 against 0.441, 10 people
        # shut: knee_wobble, off -2.15 on average, left 2.51 against 1.02, 10 people
        # shut: landing_abduction, off 2.21 on average, left 4.74 against 5.43, 10 people
        # shut: landing_arm_up, off 19.2 on average, left 11.8 against 11.5, 10 people
        # shut: landing_elbow_flexion, off -14.9 on average, left 14 against 8.11, 10 people
        # shut: landing_elbow_height, off 2.21 on average, left 4.74 against 5.43, 10 people
        # shut: landing_horizontal_adduction, off 50.3 on average, left 27.4 against 7.96, 10 people
        # shut: landing_pelvis_rotation, off 4.09 on average, left 11 against 6.23, 10 people
        # shut: landing_separation, off -13.4 on average, left 6.57 against 9.85, 10 people
        "landing_shoulder_tilt": (0.65, 1.771, 3.65),  # left 1.74, 10 people
        # shut: landing_side_tilt, off -1.09 on average, left 3.4 against 3.12, 10 people
        # shut: landing_trunk_rotation, off 17.4 on average, left 13.4 against 8.88, 10 people
        # shut: layback_elbow_lag, off -1.43 on average, left 5.85 against 0.795, 10 people
        # shut: lead_foot_open_lead, off 378 on average, left 443 against 24.1, 10 people
        # shut: lead_foot_yaw, off 7.88 on average, left 15.2 against 10.6, 10 people
        # shut: lead_swing_width, off 0.00398 on average, left 0.0592 against 0.0182, 7 people
        # shut: lift_turn, off 7.35 on average, left 15.5 against 8.07, 10 people
        "load_knee_over_toe": (0.0394, 0.06136, 0.1316),  # left 0.0581, 10 people
        # shut: load_trunk_turn, off 11.8 on average, left 23.2 against 9.59, 10 people
        # shut: peak_elbow_extension, off -195 on average, left 375 against 106, 10 people
        # shut: peak_elbow_extension_time, off -60.8 on average, left 13.5 against 8.3, 10 people
        # shut: peak_internal_rotation, off -2.91e+03 on average, left 1.39e+03 against 304, 10 people
        # shut: peak_internal_rotation_time, off -16.6 on average, left 20.5 against 10.1, 10 people
        # shut: peak_pelvis_turn, off -129 on average, left 71.2 against 45.3, 10 people
        # shut: peak_pelvis_turn_time, off 6.62 on average, left 8.85 against 5.67, 10 people
        # shut: peak_separation, off -14.2 on average, left 8.15 against 9.21, 10 people
        # shut: peak_separation_time, off -58.1 on average, left 84.2 against 8.09, 10 people
        # shut: peak_trunk_turn, off -190 on average, left 80.3 against 75.4, 10 people
        # shut: peak_trunk_turn_time, off 11.9 on average, left 10 against 8.1, 10 people
        # shut: pelvis_open_time, off -4.6 on average, left 26.3 against 42.4, 10 people
        # shut: release_arm_line, off -3.3 on average, left 9.44 against 5.49, 10 people
        # shut: release_elbow_flexion, off -9.47 on average, left 12.3 against 4.63, 10 people
        # shut: release_elbow_height, off 1.55 on average, left 11.2 against 4, 10 people
        # shut: release_side_tilt, off -3.41 on average, left 5.12 against 4.46, 10 people
        # shut: release_slot, off -6.16 on average, left 6.92 against 6.39, 10 people
        # shut: stride_offset, off 0.00324 on average, left 0.141 against 0.0931, 10 people
        # shut: trunk_open_time, off -28.8 on average, left 58.6 against 8.35, 10 people
    },
    "clicked": {
        # shut: drive_hip_extension_at_landing, off -0.682 on average, left 7.3 against 11.2, 10 people
        # shut: finish_arm_across, off 0.572 on average, left 7.79 against 3.81, 10 people
        # shut: glove_distance_at_release, off 2.34 on average, left 2.15 against 0.441, 10 people
        # shut: knee_wobble, off -2.43 on average, left 2.56 against 1.02, 10 people
        # shut: landing_abduction, off -3.02 on average, left 4.33 against 5.43, 10 people
        # shut: landing_arm_up, off 16.5 on average, left 12 against 11.5, 10 people
        # shut: landing_elbow_flexion, off -12.1 on average, left 15.1 against 8.11, 10 people
        # shut: landing_elbow_height, off -3.02 on average, left 4.33 against 5.43, 10 people
        # shut: landing_horizontal_adduction, off 49.5 on average, left 24.1 against 7.96, 10 people
        # shut: landing_pelvis_rotation, off 4.54 on average, left 6.62 against 6.23, 10 people
        "landing_separation": (-15.5, 8.795, 9.849),  # left 4.16, 10 people
        "landing_shoulder_tilt": (-0.646, 0.8413, 3.65),  # left 0.777, 10 people
        # shut: landing_side_tilt, off 1.08 on average, left 3.88 against 3.12, 10 people
        # shut: landing_trunk_rotation, off 20 on average, left 6.67 against 8.88, 10 people
        # shut: layback_elbow_lag, off -2.67 on average, left 6.63 against 0.795, 10 people
        # shut: lead_foot_open_lead, off 284 on average, left 354 against 24.1, 10 people
        # shut: lead_foot_yaw, off 8.04 on average, left 15.8 against 10.6, 10 people
        # shut: lead_swing_width, off -0.00201 on average, left 0.0753 against 0.0182, 7 people
        # shut: lift_turn, off 5.92 on average, left 16.2 against 8.07, 10 people
        "load_knee_over_toe": (0.0401, 0.06006, 0.1316),  # left 0.0566, 10 people
        # shut: load_trunk_turn, off 10.4 on average, left 18 against 9.59, 10 people
        # shut: peak_elbow_extension, off -134 on average, left 371 against 106, 10 people
        # shut: peak_elbow_extension_time, off -60.2 on average, left 13.7 against 8.3, 10 people
        # shut: peak_internal_rotation, off -3e+03 on average, left 1.23e+03 against 304, 10 people
        # shut: peak_internal_rotation_time, off -16.1 on average, left 21.3 against 10.1, 10 people
        # shut: peak_pelvis_turn, off 2.92 on average, left 35.1 against 45.3, 10 people
        # shut: peak_pelvis_turn_time, off -5.17 on average, left 4.9 against 5.67, 10 people
        "peak_separation": (-12.5, 7.457, 9.21),  # left 4.07, 10 people
        # shut: peak_separation_time, off -14.3 on average, left 88.5 against 8.09, 10 people
        # shut: peak_trunk_turn, off -176 on average, left 113 against 75.4, 10 people
        # shut: peak_trunk_turn_time, off 10.3 on average, left 10.2 against 8.1, 10 people
        # shut: pelvis_open_time, off 1.48 on average, left 22.6 against 42.4, 10 people
        # shut: release_arm_line, off -3.61 on average, left 10.7 against 5.49, 10 people
        # shut: release_elbow_flexion, off -8.88 on average, left 11.9 against 4.63, 10 people
        # shut: release_elbow_height, off 0.426 on average, left 13.3 against 4, 10 people
        # shut: release_side_tilt, off 0.411 on average, left 6.41 against 4.46, 10 people
        # shut: release_slot, off -6.71 on average, left 7.25 against 6.39, 10 people
        # shut: stride_offset, off 0.0433 on average, left 0.163 against 0.0931, 10 people
        # shut: trunk_open_time, off -14.9 on average, left 14.8 against 8.35, 10 people
    },
}
