"""Which deed each operation of the API is, so that the door can refuse it before a byte of it is read.

An operation without a line here is refused to everybody and fails the tests. ``None``: an operation of a person and of no
workspace, or one whose address names none.
"""

from __future__ import annotations

from collections.abc import Iterable

from apps.accounts.rights import Deed
from apps.records.kinds import readings

SEE = (
    "record_history people fields machines trials today trial pass_card trial_map stand stand_counts harvest "
    "yield_logs yield_log log_picture simulated_combine simulated_scale simulated_meter field_events bench "
    "seed_lots seed planting calibrations all_calibrations covariate sampling_plans openers joined_visits scouting "
    "stand_analysis photo photo_cover photo_mask estimates estimate_learning picking station visits_calendar "
    "attachments lot_attachments attachment tasks own_traits schedule "
    "readings practice usage reckon strip_widths read_instrument rights"
)
MONEY = (
    "trial_history verdict money what_if report ledger portfolio response_curves explanation trial_series "
    "price_lists amount_plan honest_margin rehearse shares"
)
RECORD = (
    "mark_strip put_stand_count put_harvest_load put_harvest_sheet put_yield_log set_log_columns set_log_steps "
    "cancel_job put_field_event put_planting_record put_planting_sheet put_depth_check put_deviation "
    "put_seedbed_check put_tillage_pass put_calibration put_joined_visit put_sampling_plan put_tape_run "
    "put_dug_plant put_plant_measure put_rating put_photo put_yield_sample put_grain_sample put_weather_file "
    "put_attachment put_lot_attachment put_task"
)
DESIGN = (
    "look_at_merge merge offer_own_trait withdraw_own_trait "
    "copy_trial archive_trial bin_trial bin restore_trial add_field edit_field put_boundary add_machine "
    "import_layout add_trial edit_trial set_treatments draw_layout set_harvest_source add_own_crop add_seed_lot "
    "edit_seed_lot set_sowing keep_inputs set_covariate add_next_year import_package set_stand_line "
    "set_estimate_setting set_station preview_import import_trial hand_over"
)
PRICES = "put_price_list take_price put_money_plan put_wheel_costs"
EXPORT = "export_strips raw_log export_data weather_csv farm_archive"
PEOPLE = (
    "workspace_history set_role remove_person deactivate reactivate remove_second_factor make_reset_link account_links "
    "invite revoke_link"
)
SETTINGS = (
    "look_at_erasing erase_farm purge_trial health set_workspace backups back_up download_backup begin_practice remove_practice"
)
OF_A_PERSON = (
    "sign_out set_preferences end_session end_other_sessions change_password session sign_in catalogue clock "
    "sessions begin_installation look_at_link accept_link join_by_link second_factor begin_second_factor "
    "confirm_second_factor renew_recovery_codes turn_second_factor_off regions time_zones add_workspace"
)


def _all(words: str | Iterable[str], deed: Deed | None) -> dict[str, Deed | None]:
    return dict.fromkeys(words.split() if isinstance(words, str) else words, deed)


DEEDS: dict[str, Deed | None] = {
    **_all(SEE, "see"),
    **_all(MONEY, "money"),
    **_all(RECORD, "record"),
    **_all((f"put_{kind.name.replace('-', '_')}" for kind in readings()), "record"),
    **_all("void void_as_before void_attachment", "correct_own"),
    **_all(DESIGN, "design"),
    **_all("freeze_protocol close_season", "freeze"),
    **_all("open_season", "amend"),
    **_all(PRICES, "prices"),
    **_all("add_share revoke_share", "share"),
    **_all(EXPORT, "export"),
    **_all(PEOPLE, "people"),
    **_all(SETTINGS, "settings"),
    **_all(OF_A_PERSON, None),
}
