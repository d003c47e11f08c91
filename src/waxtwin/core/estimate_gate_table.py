"""What an estimate in space may show: made by `python -m tools.people.gate`, not by hand.

From 14 filmed people, from the open side. Per measure: what the estimate is off on average, which is taken out; the
doubt that is left, each person judged by what the others were off, with half of what was taken out; the standard
deviation over deliveries. A measure is there when what is left is below half of the last.
"""

# fmt: off
OPEN: dict[str, dict[str, tuple[float, float, float]]] = {
    "bare": {
        # shut: drive_hip_extension_at_landing, off 5.45 on average, left 13.2 against 16.6, 13 people
        # shut: finish_arm_across, off 0.664 on average, left 6.09 against 3.41, 13 people
        # shut: glove_distance_at_release, off 2.22 on average, left 2.54 against 0.444, 13 people
        # shut: knee_wobble, off -2.18 on average, left 2.22 against 1.17, 13 people
        # shut: landing_abduction, off -1.34 on average, left 6.19 against 5.43, 13 people
        # shut: landing_arm_up, off 17 on average, left 12 against 10.2, 13 people
        # shut: landing_elbow_flexion, off -11.5 on average, left 14.8 against 7.28, 13 people
        # shut: landing_elbow_height, off -1.34 on average, left 6.19 against 5.43, 13 people
        # shut: landing_horizontal_adduction, off 53.2 on average, left 20.6 against 6.99, 13 people
        # shut: landing_pelvis_rotation, off 3.24 on average, left 12.4 against 6.87, 13 people
        # shut: landing_separation, off -10.9 on average, left 9.47 against 11.8, 13 people
        "landing_shoulder_tilt": (0.4069, 1.49, 5.049),  # left 1.48, 13 people
        # shut: landing_side_tilt, off 0.0892 on average, left 2.65 against 3, 13 people
        # shut: landing_trunk_rotation, off 14.1 on average, left 12.1 against 9.4, 13 people
        # shut: layback_elbow_lag, off -2.73 on average, left 5.88 against 0.717, 13 people
        # shut: lead_foot_open_lead, off 177 on average, left 234 against 20.1, 12 people
        # shut: lead_foot_yaw, off 10.3 on average, left 14.2 against 10.1, 13 people
        # shut: lead_swing_width, off 0.0224 on average, left 0.0788 against 0.0201, 8 people
        # shut: lift_turn, off 4.48 on average, left 15.3 against 9.25, 13 people
        "load_knee_over_toe": (0.04112, 0.06657, 0.1399),  # left 0.0633, 13 people
        # shut: load_trunk_turn, off 8.44 on average, left 17 against 11.5, 13 people
        # shut: peak_elbow_extension, off -112 on average, left 286 against 122, 13 people
        # shut: peak_elbow_extension_time, off -61 on average, left 10.9 against 8.49, 13 people
        # shut: peak_internal_rotation, off -2.85e+03 on average, left 1.34e+03 against 393, 12 people
        # shut: peak_internal_rotation_time, off -6.95 on average, left 19.2 against 10.3, 12 people
        # shut: peak_pelvis_turn, off -102 on average, left 68.1 against 45.8, 13 people
        # shut: peak_pelvis_turn_time, off 3.94 on average, left 10.2 against 9.44, 13 people
        # shut: peak_separation, off -11.8 on average, left 11.4 against 11.4, 13 people
        # shut: peak_separation_time, off -45.6 on average, left 77.4 against 20.2, 13 people
        # shut: peak_trunk_turn, off -168 on average, left 82.3 against 74, 13 people
        # shut: peak_trunk_turn_time, off 11.9 on average, left 10.5 against 7.78, 13 people
        # shut: pelvis_open_time, off 1.08 on average, left 56.1 against 47.4, 13 people
        # shut: release_arm_line, off -2.87 on average, left 11.2 against 5.41, 13 people
        # shut: release_elbow_flexion, off -6.45 on average, left 14.3 against 4.8, 13 people
        # shut: release_elbow_height, off -1.98 on average, left 9.28 against 4.18, 13 people
        # shut: release_side_tilt, off -1.89 on average, left 8.68 against 4.29, 13 people
        # shut: release_slot, off -5.59 on average, left 8.51 against 7.61, 13 people
        # shut: stride_offset, off 0.00312 on average, left 0.124 against 0.0956, 13 people
        # shut: trunk_open_time, off -13.2 on average, left 21.3 against 9.46, 13 people
    },
    "clicked": {
        "drive_hip_extension_at_landing": (3.344, 7.945, 16.6),  # left 7.77, 13 people
        # shut: finish_arm_across, off 0.536 on average, left 6.4 against 3.41, 13 people
        # shut: glove_distance_at_release, off 2.48 on average, left 2.46 against 0.444, 13 people
        # shut: knee_wobble, off -2.12 on average, left 2.1 against 1.17, 13 people
        # shut: landing_abduction, off -5.78 on average, left 5.94 against 5.43, 13 people
        # shut: landing_arm_up, off 15.3 on average, left 14.8 against 10.2, 13 people
        # shut: landing_elbow_flexion, off -9.68 on average, left 14.1 against 7.28, 13 people
        # shut: landing_elbow_height, off -5.78 on average, left 5.94 against 5.43, 13 people
        # shut: landing_horizontal_adduction, off 46.1 on average, left 20.8 against 6.99, 13 people
        # shut: landing_pelvis_rotation, off 2.82 on average, left 4.57 against 6.87, 13 people
        "landing_separation": (-14.68, 9.181, 11.81),  # left 5.52, 13 people
        "landing_shoulder_tilt": (-0.6207, 0.7956, 5.049),  # left 0.733, 13 people
        # shut: landing_side_tilt, off 3.23 on average, left 4.47 against 3, 13 people
        # shut: landing_trunk_rotation, off 17.5 on average, left 7.55 against 9.4, 13 people
        # shut: layback_elbow_lag, off -4.83 on average, left 6.52 against 0.717, 13 people
        # shut: lead_foot_open_lead, off 176 on average, left 233 against 20.1, 12 people
        # shut: lead_foot_yaw, off 10.1 on average, left 14.1 against 10.1, 13 people
        # shut: lead_swing_width, off 0.0112 on average, left 0.0756 against 0.0201, 8 people
        # shut: lift_turn, off 3.15 on average, left 15.3 against 9.25, 13 people
        "load_knee_over_toe": (0.04087, 0.06608, 0.1399),  # left 0.0628, 13 people
        # shut: load_trunk_turn, off 10.8 on average, left 14.8 against 11.5, 13 people
        # shut: peak_elbow_extension, off -78.8 on average, left 214 against 122, 13 people
        # shut: peak_elbow_extension_time, off -59.8 on average, left 10.4 against 8.49, 13 people
        # shut: peak_internal_rotation, off -2.92e+03 on average, left 1.17e+03 against 391, 13 people
        # shut: peak_internal_rotation_time, off -6.43 on average, left 17.9 against 9.95, 13 people
        # shut: peak_pelvis_turn, off 10.5 on average, left 67.6 against 45.8, 13 people
        # shut: peak_pelvis_turn_time, off -5.43 on average, left 4.99 against 9.44, 13 people
        "peak_separation": (-11.9, 7.39, 11.45),  # left 4.38, 13 people
        # shut: peak_separation_time, off -16.5 on average, left 86 against 20.2, 13 people
        # shut: peak_trunk_turn, off -153 on average, left 144 against 74, 13 people
        # shut: peak_trunk_turn_time, off 10.3 on average, left 10.2 against 7.78, 13 people
        # shut: pelvis_open_time, off 9.61 on average, left 25.3 against 47.4, 13 people
        # shut: release_arm_line, off -3.82 on average, left 11.1 against 5.41, 13 people
        # shut: release_elbow_flexion, off -6 on average, left 14.4 against 4.8, 13 people
        # shut: release_elbow_height, off -4.11 on average, left 9.23 against 4.18, 13 people
        # shut: release_side_tilt, off 1.46 on average, left 9.33 against 4.29, 13 people
        # shut: release_slot, off -6.14 on average, left 8.16 against 7.61, 13 people
        # shut: stride_offset, off 0.0218 on average, left 0.098 against 0.0956, 13 people
        # shut: trunk_open_time, off -13.9 on average, left 11.8 against 9.46, 13 people
    },
}
