-- The tables, as MariaDB tells them; each statement may be done again.

create table if not exists `accessory` (
  `id` int not null auto_increment, `version` int not null default 1, `name` varchar(80) not null,
  `kind` varchar(10) not null, `length_mm` decimal(14,7) not null, `width_mm` decimal(14,7) not null,
  `height_mm` decimal(14,7) not null, `count` int not null default 1, `magnetic` tinyint(1) not null default 1,
  `square_mm` decimal(14,7) not null default 0.0000000, `clamp_n` decimal(8,1) default NULL,
  `checked_on` date default NULL, primary key (`id`), unique key `uq_accessory_name` (`name`),
  constraint `ck_accessory_kind` check (`kind` in ('block','parallel','pin','clamp','foil')),
  constraint `ck_accessory_figures` check (`length_mm` > 0 and `width_mm` > 0 and `height_mm` > 0 and `count` > 0 and `square_mm` >= 0 and (`clamp_n` is null or `clamp_n` > 0))
) engine=InnoDB default charset=utf8mb4 collate=utf8mb4_unicode_ci;
create table if not exists `block_set` (
  `id` int not null auto_increment, `version` int not null default 1, `name` varchar(80) not null,
  `unit` varchar(2) not null, `set_name` varchar(10) not null, `u_um` decimal(6,3) not null,
  `calibrated_on` date not null, `due_on` date not null, `blocks` text not null, `missing` text not null,
  `worn` text not null, primary key (`id`), unique key `uq_block_set_name` (`name`),
  constraint `ck_block_set_set_name` check (`set_name` in ('inch81','metric47','metric88','own')),
  constraint `ck_block_set_u` check (`u_um` > 0)
) engine=InnoDB default charset=utf8mb4 collate=utf8mb4_unicode_ci;
create table if not exists `fixture` (
  `id` int not null auto_increment, `version` int not null default 1, `name` varchar(80) not null,
  `kind` varchar(20) not null, `square_mm` decimal(14,7) not null, `over_mm` decimal(14,7) not null,
  `seating_mm` decimal(14,7) not null, `base_length_mm` decimal(14,7) not null,
  `base_width_mm` decimal(14,7) not null, `clamps` int not null default 2,
  `clamp_n` decimal(8,1) not null default 1500.0, `checked_on` date default NULL,
  `form` varchar(20) not null default 'angle_plate', `height_mm` decimal(14,7) not null default 75.0000000,
  `seat_mm` decimal(14,7) not null default 0.0000000, `centres_mm` decimal(14,7) default NULL,
  `top_centres_mm` decimal(14,7) default NULL, primary key (`id`), unique key `uq_fixture_name` (`name`),
  constraint `ck_fixture_kind` check (`kind` in ('angle_plate','square_block','vee_or_vise','small_part_fixture','shim','assembly')),
  constraint `ck_fixture_form` check (`form` in ('angle_plate','square_block','vee_block','vise','sine_plate','small_part_cube','spin_fixture')),
  constraint `ck_fixture_heights` check (`height_mm` > 0 and `seat_mm` >= 0),
  constraint `ck_fixture_centres` check ((`centres_mm` is null or `centres_mm` > 0) and (`top_centres_mm` is null or `top_centres_mm` > 0)),
  constraint `ck_fixture_figures` check (`square_mm` >= 0 and `over_mm` > 0 and `seating_mm` >= 0 and `base_length_mm` > 0 and `base_width_mm` > 0 and `clamps` > 0 and `clamp_n` > 0)
) engine=InnoDB default charset=utf8mb4 collate=utf8mb4_unicode_ci;
create table if not exists `flange` (
  `id` int not null auto_increment, `version` int not null default 1, `name` varchar(80) not null,
  `kind` varchar(10) not null, `diameter_mm` decimal(14,7) not null, `spigot_mm` decimal(14,7) not null,
  `radius_mm` decimal(14,7) not null, `holes` int default NULL, `masses` varchar(200) not null, primary key (`id`),
  unique key `uq_flange_name` (`name`), constraint `ck_flange_kind` check (`kind` in ('weights','ring','plain')),
  constraint `ck_flange_figures` check (`diameter_mm` > 0 and `spigot_mm` > 0 and `radius_mm` > 0),
  constraint `ck_flange_holes` check (`holes` is null or `holes` between 1 and 48)
) engine=InnoDB default charset=utf8mb4 collate=utf8mb4_unicode_ci;
create table if not exists `instrument` (
  `id` int not null auto_increment, `version` int not null default 1, `name` varchar(80) not null,
  `unit` varchar(2) not null, `least_mm` decimal(14,7) not null, `most_mm` decimal(14,7) not null,
  `resolution_mm` decimal(14,7) not null, `error_limit_mm` decimal(14,7) not null,
  `calibration_u_mm` decimal(14,7) not null, `repeatability_mm` decimal(14,7) not null, `calibrated_on` date not null,
  `due_on` date not null, `reads` varchar(10) not null default 'sizes', `port` varchar(200) default NULL,
  `baud` int not null default 9600, `sends` varchar(2) not null default 'mm', `asks` varchar(20) not null default '',
  `falls` tinyint(1) not null default 0, `simulated` tinyint(1) not null default 0,
  `streams` tinyint(1) not null default 0, primary key (`id`), unique key `uq_instrument_name` (`name`),
  constraint `ck_instrument_figures` check (`resolution_mm` > 0 and `error_limit_mm` >= 0 and `calibration_u_mm` >= 0 and `repeatability_mm` >= 0),
  constraint `ck_instrument_measuring_range` check (`least_mm` >= 0 and `most_mm` > `least_mm`),
  constraint `ck_instrument_reads` check (`reads` in ('sizes','deviations')),
  constraint `ck_instrument_sends` check (`sends` in ('mm','in','um'))
) engine=InnoDB default charset=utf8mb4 collate=utf8mb4_unicode_ci;
create table if not exists `machine` (
  `id` int not null auto_increment, `version` int not null default 1, `name` varchar(80) not null,
  `dial_unit` varchar(2) not null, `graduation_mm` decimal(14,7) not null, `per_rev_mm` decimal(14,7) not null,
  `backlash_mm` decimal(14,7) not null, `crossfeed_graduation_mm` decimal(14,7) not null,
  `crossfeed_min_mm` decimal(14,7) not null, `crossfeed_max_mm` decimal(14,7) not null,
  `table_min_mm_s` decimal(14,7) not null, `table_max_mm_s` decimal(14,7) not null,
  `reversal_s` decimal(6,3) not null, `travel_long_mm` decimal(14,7) not null,
  `travel_cross_mm` decimal(14,7) not null, `height_mm` decimal(14,7) not null, `spindle_w` int not null,
  `rpm` int not null, `wheel_turns` varchar(20) not null, `feed_every` varchar(10) not null,
  `coolant` varchar(10) not null, `cut_ratio` decimal(5,4) not null, `downfeed_max_mm` decimal(14,7) default NULL,
  `hums` varchar(600) not null default '', `cross_dial_mm` decimal(14,7) default NULL,
  `crossfeeds` varchar(600) not null default '',
  `spindle` varchar(80) default NULL, `on_chuck` varchar(20) default NULL, primary key (`id`),
  unique key `uq_machine_name` (`name`), constraint `ck_machine_dial_unit` check (`dial_unit` in ('mm','in')),
  constraint `ck_machine_wheel_turns` check (`wheel_turns` in ('clockwise','counter-clockwise')),
  constraint `ck_machine_feed_every` check (`feed_every` in ('stroke','pair')),
  constraint `ck_machine_coolant` check (`coolant` in ('dry','mist','water','oil')),
  constraint `ck_machine_collar` check (`graduation_mm` > 0 and `per_rev_mm` >= `graduation_mm`),
  constraint `ck_machine_crossfeed` check (`crossfeed_graduation_mm` > 0 and `crossfeed_min_mm` > 0 and `crossfeed_max_mm` >= `crossfeed_min_mm`),
  constraint `ck_machine_table_speed` check (`table_min_mm_s` > 0 and `table_max_mm_s` >= `table_min_mm_s`),
  constraint `ck_machine_cut_ratio` check (`cut_ratio` > 0 and `cut_ratio` <= 1),
  constraint `ck_machine_downfeed_max` check (`downfeed_max_mm` is null or `downfeed_max_mm` >= `graduation_mm`),
  constraint `ck_machine_cross_dial` check (`cross_dial_mm` is null or `cross_dial_mm` > 0)
) engine=InnoDB default charset=utf8mb4 collate=utf8mb4_unicode_ci;
create table if not exists `person` (
  `id` int not null auto_increment, `sign_in_name` varchar(40) not null, `name` varchar(80) not null,
  `role` varchar(20) not null, `password_hash` varchar(200) not null, `active` tinyint(1) not null,
  `created_at` datetime(6) not null, `version` int not null default 1, primary key (`id`),
  unique key `uq_person_sign_in_name` (`sign_in_name`),
  constraint `ck_person_role` check (`role` in ('machinist','lead','inspector','apprentice'))
) engine=InnoDB default charset=utf8mb4 collate=utf8mb4_unicode_ci;
create table if not exists `sign_in_attempt` (
  `id` int not null auto_increment, `sign_in_name` varchar(40) not null, `address` varchar(45) not null,
  `succeeded` tinyint(1) not null, `at` datetime(6) not null, primary key (`id`),
  key `ix_sign_in_attempt_name_at` (`sign_in_name`,`at`), key `ix_sign_in_attempt_address_at` (`address`,`at`)
) engine=InnoDB default charset=utf8mb4 collate=utf8mb4_unicode_ci;
create table if not exists `chuck` (
  `id` int not null auto_increment, `version` int not null default 1, `name` varchar(80) not null,
  `machine_id` int not null, `length_mm` decimal(14,7) not null, `width_mm` decimal(14,7) not null,
  `pull_n_cm2` decimal(7,2) not null, `pull_tested` tinyint(1) not null,
  `low_share` decimal(4,3) not null default 1.000, `fence_mm` decimal(14,7) default NULL,
  `fence_out_um` decimal(7,2) default NULL, `fence_ground` tinyint(1) not null default 0,
  `flat_limit_um` decimal(7,2) not null default 5.00, primary key (`id`), unique key `uq_chuck_name` (`name`),
  unique key `uq_chuck_machine_id` (`machine_id`),
  constraint `fk_chuck_machine_id` foreign key (`machine_id`) references `machine` (`id`),
  constraint `ck_chuck_figures` check (`length_mm` > 0 and `width_mm` > 0 and `pull_n_cm2` >= 0),
  constraint `ck_chuck_more` check (`low_share` > 0 and `low_share` <= 1 and (`fence_mm` is null or `fence_mm` > 0)),
  constraint `ck_chuck_flat_limit` check (`flat_limit_um` > 0)
) engine=InnoDB default charset=utf8mb4 collate=utf8mb4_unicode_ci;
create table if not exists `person_change` (
  `id` int not null auto_increment, `person_id` int not null, `by_id` int not null, `at` datetime(6) not null,
  `was_name` varchar(80) not null, `was_role` varchar(20) not null, `now_name` varchar(80) not null,
  `now_role` varchar(20) not null, primary key (`id`), key `fk_person_change_person_id` (`person_id`),
  key `fk_person_change_by_id` (`by_id`),
  constraint `fk_person_change_by_id` foreign key (`by_id`) references `person` (`id`),
  constraint `fk_person_change_person_id` foreign key (`person_id`) references `person` (`id`)
) engine=InnoDB default charset=utf8mb4 collate=utf8mb4_unicode_ci;
create table if not exists `sensor` (
  `id` int not null auto_increment, `version` int not null default 1, `name` varchar(80) not null,
  `machine_id` int not null, `kind` varchar(10) not null, `port` varchar(200) not null,
  `baud` int not null default 9600, `sends` varchar(2) not null, `asks` varchar(20) not null default '',
  `rises` tinyint(1) not null default 1, `simulated` tinyint(1) not null default 0, primary key (`id`),
  unique key `uq_sensor_machine_kind` (`machine_id`,`kind`), unique key `uq_sensor_name` (`name`),
  constraint `fk_sensor_machine_id` foreign key (`machine_id`) references `machine` (`id`),
  constraint `ck_sensor_kind` check (`kind` in ('position','power')),
  constraint `ck_sensor_sends` check (`sends` in ('mm','in','um','W','kW'))
) engine=InnoDB default charset=utf8mb4 collate=utf8mb4_unicode_ci;
create table if not exists `signed_in` (
  `id` int not null auto_increment, `token_digest` varchar(64) not null, `person_id` int not null,
  `began_at` datetime(6) not null, `last_at` datetime(6) not null, `address` varchar(45) not null,
  `browser` varchar(200) not null, primary key (`id`), unique key `uq_signed_in_token_digest` (`token_digest`),
  key `fk_signed_in_person_id` (`person_id`),
  constraint `fk_signed_in_person_id` foreign key (`person_id`) references `person` (`id`)
) engine=InnoDB default charset=utf8mb4 collate=utf8mb4_unicode_ci;
create table if not exists `wheel` (
  `id` int not null auto_increment, `version` int not null default 1, `name` varchar(80) not null,
  `marking` varchar(40) not null, `grit` int not null, `grade` varchar(1) not null,
  `diameter_mm` decimal(14,7) not null, `off_mm` decimal(14,7) not null default 0.0000000,
  `width_mm` decimal(14,7) not null, `bore_mm` decimal(14,7) not null, `max_rpm` int default NULL,
  `max_m_s` decimal(6,2) default NULL, `answered_by` varchar(80) default NULL,
  `new_diameter_mm` decimal(14,7) default NULL, `least_diameter_mm` decimal(14,7) default NULL,
  `price` decimal(10,2) default NULL, `mass_g` decimal(9,1) default NULL, `side_work` tinyint(1) not null default 0,
  `use_by` date default NULL, `flange_id` int default NULL, `ground_mm3` decimal(18,2) not null default 0.00,
  `scrapped` tinyint(1) not null default 0, `mounted_on` varchar(80) default NULL,
  `next_step` varchar(20) default NULL, primary key (`id`), unique key `uq_wheel_name` (`name`),
  key `fk_wheel_flange_id` (`flange_id`),
  constraint `fk_wheel_flange_id` foreign key (`flange_id`) references `flange` (`id`),
  constraint `ck_wheel_sizes` check (`diameter_mm` > 0 and `width_mm` > 0 and `bore_mm` > 0 and `bore_mm` < `diameter_mm`),
  constraint `ck_wheel_max_rpm` check ((`max_rpm` is null or `max_rpm` > 0) and (`max_m_s` is null or `max_m_s` > 0)),
  constraint `ck_wheel_grit` check (`grit` between 4 and 1200),
  constraint `ck_wheel_grade` check (`grade` regexp '^[A-Z]$'),
  constraint `ck_wheel_use` check (`off_mm` >= 0 and 2 * `off_mm` < `diameter_mm` and `ground_mm3` >= 0)
) engine=InnoDB default charset=utf8mb4 collate=utf8mb4_unicode_ci;
create table if not exists `job` (
  `id` int not null auto_increment, `number` varchar(20) not null, `title` varchar(80) not null,
  `print_unit` varchar(2) not null, `due_on` date default NULL, `owner_id` int not null, `machine_id` int not null,
  `wheel_id` int not null, `version` int not null, `created_at` datetime(6) not null, primary key (`id`),
  unique key `uq_job_number` (`number`), key `fk_job_owner_id` (`owner_id`), key `fk_job_machine_id` (`machine_id`),
  key `fk_job_wheel_id` (`wheel_id`),
  constraint `fk_job_machine_id` foreign key (`machine_id`) references `machine` (`id`),
  constraint `fk_job_owner_id` foreign key (`owner_id`) references `person` (`id`),
  constraint `fk_job_wheel_id` foreign key (`wheel_id`) references `wheel` (`id`),
  constraint `ck_job_print_unit` check (`print_unit` in ('mm','in'))
) engine=InnoDB default charset=utf8mb4 collate=utf8mb4_unicode_ci;
create table if not exists `job_summary` (
  `job_id` int not null, `act` varchar(20) not null, `surface` int default NULL, `piece` int default NULL,
  `characteristic` varchar(20) not null, `words` varchar(200) not null, `waits_for` varchar(12) not null,
  `running` tinyint(1) not null, `up` int default NULL, `states` text not null,
  `finished_at` datetime(6) default NULL, `last_at` datetime(6) default NULL, primary key (`job_id`),
  key `ix_job_summary_finished` (`finished_at`,`job_id`), key `ix_job_summary_waits` (`waits_for`,`job_id`),
  constraint `fk_job_summary_job_id` foreign key (`job_id`) references `job` (`id`)
) engine=InnoDB default charset=utf8mb4 collate=utf8mb4_unicode_ci;
create table if not exists `job_word` (
  `word` varchar(40) not null, `job_id` int not null, primary key (`word`,`job_id`),
  key `fk_job_word_job_id` (`job_id`), constraint `fk_job_word_job_id` foreign key (`job_id`) references `job` (`id`)
) engine=InnoDB default charset=utf8mb4 collate=utf8mb4_unicode_ci;
create table if not exists `part` (
  `id` int not null auto_increment, `job_id` int not null, `quantity` int not null, `material` varchar(80) not null,
  `hardness_hrc` decimal(5,2) default NULL, `parallel_mm` decimal(14,7) default NULL,
  `square_mm` decimal(14,7) default NULL, `flat_mm` decimal(14,7) default NULL, `ra_um` decimal(7,4) default NULL,
  `mark_corner` varchar(5) not null, `reference_face` int not null, `min_skin_mm` decimal(14,7) not null,
  `first_share` decimal(5,4) default NULL, `bow_mm` decimal(14,7) default NULL,
  `bow_shape` varchar(10) not null default 'middle_up', `leave_mm` decimal(14,7) not null default 0.0000000,
  `remarks` text not null, `route` text default NULL, `features` text default NULL, primary key (`id`),
  unique key `uq_part_job_id` (`job_id`), constraint `fk_part_job_id` foreign key (`job_id`) references `job` (`id`),
  constraint `ck_part_mark_corner` check (`mark_corner` in ('1-3-4','1-3-6','1-5-4','1-5-6','2-3-4','2-3-6','2-5-4','2-5-6')),
  constraint `ck_part_reference_face` check (`reference_face` in (1,2)),
  constraint `ck_part_quantity` check (`quantity` >= 1),
  constraint `ck_part_first_share` check (`first_share` is null or `first_share` between 0 and 1),
  constraint `ck_part_min_skin` check (`min_skin_mm` >= 0),
  constraint `ck_part_parallel` check (`parallel_mm` is null or `parallel_mm` > 0),
  constraint `ck_part_relations` check ((`square_mm` is null or `square_mm` > 0) and (`flat_mm` is null or `flat_mm` > 0) and (`ra_um` is null or `ra_um` > 0)),
  constraint `ck_part_bow` check ((`bow_mm` is null or `bow_mm` >= 0) and `leave_mm` >= 0),
  constraint `ck_part_bow_shape` check (`bow_shape` in ('middle_up','ends_up'))
) engine=InnoDB default charset=utf8mb4 collate=utf8mb4_unicode_ci;
create table if not exists `part_plan` (
  `id` int not null auto_increment, `job_id` int not null, `number` int not null, `based_on` int not null,
  `choices` text not null, `figures` text not null, `made_by_id` int not null, `made_at` datetime(6) not null,
  `released_by_id` int default NULL, `released_at` datetime(6) default NULL, `release` int default NULL,
  `reason` varchar(500) not null default '', primary key (`id`), unique key `uq_part_plan_number` (`job_id`,`number`),
  key `fk_part_plan_made_by_id` (`made_by_id`), key `fk_part_plan_released_by_id` (`released_by_id`),
  constraint `fk_part_plan_job_id` foreign key (`job_id`) references `job` (`id`),
  constraint `fk_part_plan_made_by_id` foreign key (`made_by_id`) references `person` (`id`),
  constraint `fk_part_plan_released_by_id` foreign key (`released_by_id`) references `person` (`id`),
  constraint `ck_part_plan_number` check (`number` >= 1)
) engine=InnoDB default charset=utf8mb4 collate=utf8mb4_unicode_ci;
create table if not exists `plan` (
  `id` int not null auto_increment, `job_id` int not null, `surface` int not null, `method` varchar(20) not null,
  `stock_mm` decimal(14,7) not null, `left_on_mm` decimal(14,7) not null, `keeps_wheel_height` tinyint(1) not null,
  `holder` varchar(80) not null default 'magnet', `hold_safety` decimal(8,2) default NULL,
  `rise_c` decimal(6,2) not null default 0.00, `reason` varchar(500) not null default '',
  `until_clean` tinyint(1) not null default 0, `push_n` decimal(11,4) default NULL, `created_by_id` int not null, `created_at` datetime(6) not null,
  primary key (`id`), key `fk_plan_job_id` (`job_id`), key `fk_plan_created_by_id` (`created_by_id`),
  constraint `fk_plan_created_by_id` foreign key (`created_by_id`) references `person` (`id`),
  constraint `fk_plan_job_id` foreign key (`job_id`) references `job` (`id`),
  constraint `ck_plan_method` check (`method` in ('quickest','light','all_at_once','peel','sharp_wide','auto','custom')),
  constraint `ck_plan_surface` check (`surface` >= 1),
  constraint `ck_plan_figures` check (`stock_mm` >= 0 and `left_on_mm` >= 0 and `rise_c` >= 0)
) engine=InnoDB default charset=utf8mb4 collate=utf8mb4_unicode_ci;
create table if not exists `set_up` (
  `id` int not null auto_increment, `version` int not null default 1, `job_id` int not null,
  `setup` varchar(20) not null, `layout` text not null, `before` mediumtext not null,
  `stop` varchar(500) not null default '', `cautions` text not null, `changed_by_id` int not null,
  `changed_at` datetime(6) not null, primary key (`id`), unique key `uq_set_up_of` (`job_id`,`setup`),
  key `fk_set_up_changed_by_id` (`changed_by_id`),
  constraint `fk_set_up_changed_by_id` foreign key (`changed_by_id`) references `person` (`id`),
  constraint `fk_set_up_job_id` foreign key (`job_id`) references `job` (`id`)
) engine=InnoDB default charset=utf8mb4 collate=utf8mb4_unicode_ci;
create table if not exists `surface_map` (
  `id` int not null auto_increment, `key` varchar(36) not null, `version` int not null default 1,
  `chuck_id` int default NULL, `job_id` int default NULL, `piece` int default NULL, `surface` int default NULL,
  `frame` varchar(10) not null, `layout` mediumtext default NULL, `points` longtext default NULL,
  `closing_um` decimal(12,4) default NULL, `plate_um` decimal(7,3) not null default 0.000,
  `state` varchar(10) not null, `note` varchar(500) not null default '', `seen` text not null,
  `seen_depth_um` decimal(9,3) default NULL, `count` int default NULL, `range_um` decimal(12,4) default NULL,
  `taken_at` datetime(6) not null, `by_id` int default NULL, `instrument_id` int default NULL, primary key (`id`),
  unique key `uq_surface_map_key` (`key`), key `fk_surface_map_chuck_id` (`chuck_id`),
  key `fk_surface_map_by_id` (`by_id`), key `fk_surface_map_instrument_id` (`instrument_id`),
  key `ix_surface_map_job` (`job_id`,`id`),
  constraint `fk_surface_map_by_id` foreign key (`by_id`) references `person` (`id`),
  constraint `fk_surface_map_chuck_id` foreign key (`chuck_id`) references `chuck` (`id`),
  constraint `fk_surface_map_instrument_id` foreign key (`instrument_id`) references `instrument` (`id`),
  constraint `fk_surface_map_job_id` foreign key (`job_id`) references `job` (`id`),
  constraint `ck_surface_map_state` check (`state` in ('taking','in use','refused','withdrawn')),
  constraint `ck_surface_map_frame` check (`frame` in ('machine','plate')),
  constraint `ck_surface_map_of` check (`chuck_id` is null <> (`job_id` is null)),
  constraint `ck_surface_map_points` check (`state` = 'taking' or `points` is not null)
) engine=InnoDB default charset=utf8mb4 collate=utf8mb4_unicode_ci;
create table if not exists `characteristic` (
  `id` int not null auto_increment, `part_id` int not null, `position` int not null, `name` varchar(20) not null,
  `kind` varchar(10) not null, `surface` int not null, `to_surface` int default NULL,
  `nominal` decimal(14,7) not null, `tol_minus` decimal(14,7) not null, `tol_plus` decimal(14,7) not null,
  primary key (`id`), unique key `uq_characteristic_name` (`part_id`,`name`),
  constraint `fk_characteristic_part_id` foreign key (`part_id`) references `part` (`id`),
  constraint `ck_characteristic_kind` check (`kind` in ('size','parallel','square','flat','angle','position','finish')),
  constraint `ck_characteristic_surfaces` check (`surface` >= 1 and (`to_surface` is null or `to_surface` >= 1)),
  constraint `ck_characteristic_limits` check (`nominal` >= 0 and `tol_minus` >= 0 and `tol_plus` >= 0 and `tol_minus` + `tol_plus` > 0)
) engine=InnoDB default charset=utf8mb4 collate=utf8mb4_unicode_ci;
create table if not exists `log_entry` (
  `seq` bigint(20) not null auto_increment, `job_id` int not null, `kind` varchar(20) not null,
  `at` datetime(6) not null, `by_id` int not null, `machine_id` int default NULL, `surface` int default NULL,
  `setup` varchar(20) default NULL, `load` int default NULL, `pieces` text default NULL,
  `asks` text default NULL, `piece` int default NULL,
  `plan_id` int default NULL, `reading_mm` decimal(14,7) default NULL, `amount_mm` decimal(14,7) default NULL,
  `pass_count` int default NULL, `step` int default NULL, `route_change` varchar(10) default NULL,
  `piece_end` varchar(10) default NULL, `item` varchar(80) default NULL, `answer` varchar(20) default NULL,
  `seen` varchar(20) default NULL, `side` varchar(20) not null default '', `power_w` decimal(9,1) default NULL,
  `screen` varchar(16) not null default '', `how` varchar(200) not null default '',
  `map_key` varchar(36) default NULL, `characteristic` varchar(20) not null default 'thickness', `note` text not null,
  `supersedes` varchar(36) default NULL, `instrument_id` int default NULL, `part_c` decimal(5,2) default NULL,
  `gauge_c` decimal(5,2) default NULL, `room_c` decimal(5,2) default NULL,
  `uncertainty_mm` decimal(14,7) default NULL, `verdict` varchar(10) default NULL,
  `asked_mm` decimal(14,7) default NULL, `got_mm` decimal(14,7) default NULL, `read_in_by_id` int default NULL,
  `read_in_at` datetime(6) default NULL, `read_in_from` varchar(120) not null default '',
  `clock_doubt` tinyint(1) not null default 0, `entry_id` varchar(36) not null, `digest` varchar(32) default NULL,
  primary key (`seq`), unique key `uq_log_entry_entry_id` (`entry_id`),
  unique key `uq_log_entry_supersedes` (`supersedes`), key `fk_log_entry_by_id` (`by_id`),
  key `fk_log_entry_machine_id` (`machine_id`), key `fk_log_entry_plan_id` (`plan_id`),
  key `fk_log_entry_instrument_id` (`instrument_id`), key `fk_log_entry_read_in_by_id` (`read_in_by_id`),
  key `ix_log_entry_job_seq` (`job_id`,`seq`),
  constraint `fk_log_entry_by_id` foreign key (`by_id`) references `person` (`id`),
  constraint `fk_log_entry_instrument_id` foreign key (`instrument_id`) references `instrument` (`id`),
  constraint `fk_log_entry_job_id` foreign key (`job_id`) references `job` (`id`),
  constraint `fk_log_entry_machine_id` foreign key (`machine_id`) references `machine` (`id`),
  constraint `fk_log_entry_plan_id` foreign key (`plan_id`) references `plan` (`id`),
  constraint `fk_log_entry_read_in_by_id` foreign key (`read_in_by_id`) references `person` (`id`),
  constraint `fk_log_entry_supersedes` foreign key (`supersedes`) references `log_entry` (`entry_id`),
  constraint `ck_log_entry_kind` check (`kind` in ('taken in','amended','handed over','planned','placed','touched off','pass','spark-out','dressed','done','skipped','note','measured','face done','left','observed','stopped','went on','taken over','rerouted','ended','undone','waived','prepared','caution_waived','signed off','zero lost')),
  constraint `ck_log_entry_surface` check (`surface` is null or `surface` >= 1),
  constraint `ck_log_entry_verdict` check (`verdict` is null or `verdict` in ('in','not yet','unsure','out')),
  constraint `ck_log_entry_pass_has_reading` check (`kind` not in ('pass','touched off') or `surface` is not null and `reading_mm` is not null),
  constraint `ck_log_entry_planned_has_plan` check (`kind` <> 'planned' or `plan_id` is not null),
  constraint `ck_log_entry_undone_supersedes` check (`kind` <> 'undone' or `supersedes` is not null),
  constraint `ck_log_entry_measured_with_what` check (`kind` <> 'measured' or `instrument_id` is not null and `uncertainty_mm` is not null and `piece` is not null),
  constraint `ck_log_entry_step` check (`kind` not in ('done','skipped') or `step` is not null),
  constraint `ck_log_entry_at_machine` check (`kind` not in ('planned','placed','touched off','pass','spark-out','dressed','done','skipped','face done','left','prepared','observed','stopped','went on','taken over') or `surface` is not null and `setup` is not null and `load` is not null),
  constraint `ck_log_entry_ended` check (`kind` <> 'ended' or `piece` is not null and `piece_end` is not null),
  constraint `ck_log_entry_item` check (`kind` not in ('prepared','caution_waived') or `item` is not null),
  constraint `ck_log_entry_seen` check (`kind` not in ('observed','stopped') or `seen` is not null),
  constraint `ck_log_entry_power_w` check (`power_w` is null or `power_w` >= 0),
  constraint `ck_log_entry_rerouted` check (`kind` <> 'rerouted' or `route_change` is not null),
  constraint `ck_log_entry_piece_end` check (`piece_end` in ('scrapped','passed')),
  constraint `ck_log_entry_route_change` check (`route_change` in ('skip','first','grind')),
  constraint `ck_log_entry_pass_count` check (`pass_count` is null or `pass_count` between 1 and 50)
) engine=InnoDB default charset=utf8mb4 collate=utf8mb4_unicode_ci;
create table if not exists `map_reading` (
  `id` int not null auto_increment, `map_id` int not null, `number` int not null, `value_um` decimal(12,4) not null,
  `source` varchar(80) not null default '', `at` datetime(6) not null, `by_id` int not null,
  `entry_id` varchar(36) not null, `digest` varchar(32) default NULL, primary key (`id`),
  unique key `uq_map_reading_entry_id` (`entry_id`), key `fk_map_reading_by_id` (`by_id`),
  key `ix_map_reading_map` (`map_id`,`id`),
  constraint `fk_map_reading_by_id` foreign key (`by_id`) references `person` (`id`),
  constraint `fk_map_reading_map_id` foreign key (`map_id`) references `surface_map` (`id`),
  constraint `ck_map_reading_number` check (`number` >= 0)
) engine=InnoDB default charset=utf8mb4 collate=utf8mb4_unicode_ci;
create table if not exists `part_face` (
  `id` int not null auto_increment, `part_id` int not null, `face` int not null, `condition` varchar(40) not null,
  `cleanup_mm` decimal(14,7) not null, `purpose` varchar(10) not null, primary key (`id`),
  unique key `uq_part_face_face` (`part_id`,`face`),
  constraint `fk_part_face_part_id` foreign key (`part_id`) references `part` (`id`),
  constraint `ck_part_face_face` check (`face` between 1 and 6),
  constraint `ck_part_face_condition` check (`condition` in ('scale or burrs','sawn','milled','stable','ground')),
  constraint `ck_part_face_purpose` check (`purpose` in ('bearing','plain','as it is')),
  constraint `ck_part_face_cleanup` check (`cleanup_mm` >= 0)
) engine=InnoDB default charset=utf8mb4 collate=utf8mb4_unicode_ci;
create table if not exists `part_size` (
  `id` int not null auto_increment, `part_id` int not null, `axis` varchar(10) not null,
  `target_mm` decimal(14,7) not null, `tol_minus_mm` decimal(14,7) not null, `tol_plus_mm` decimal(14,7) not null,
  `measured_max_mm` decimal(14,7) not null, `measured_min_mm` decimal(14,7) not null, primary key (`id`),
  unique key `uq_part_size_axis` (`part_id`,`axis`),
  constraint `fk_part_size_part_id` foreign key (`part_id`) references `part` (`id`),
  constraint `ck_part_size_axis` check (`axis` in ('length','width','thickness')),
  constraint `ck_part_size_print` check (`target_mm` > 0 and `tol_minus_mm` >= 0 and `tol_plus_mm` >= 0 and `tol_minus_mm` + `tol_plus_mm` > 0 and `tol_minus_mm` < `target_mm`),
  constraint `ck_part_size_measured` check (`measured_min_mm` > 0 and `measured_max_mm` >= `measured_min_mm`)
) engine=InnoDB default charset=utf8mb4 collate=utf8mb4_unicode_ci;
create table if not exists `piece` (
  `id` int not null auto_increment, `part_id` int not null, `number` int not null,
  `thickness_mm` decimal(14,7) default NULL, `width_mm` decimal(14,7) default NULL,
  `length_mm` decimal(14,7) default NULL, primary key (`id`), unique key `uq_piece_number` (`part_id`,`number`),
  constraint `fk_piece_part_id` foreign key (`part_id`) references `part` (`id`),
  constraint `ck_piece_number` check (`number` >= 1),
  constraint `ck_piece_sizes` check ((`thickness_mm` is null or `thickness_mm` > 0) and (`width_mm` is null or `width_mm` > 0) and (`length_mm` is null or `length_mm` > 0))
) engine=InnoDB default charset=utf8mb4 collate=utf8mb4_unicode_ci;
create table if not exists `plan_step` (
  `plan_id` int not null, `number` int not null, `kind` varchar(10) not null, `step_mm` decimal(14,7) not null,
  `depth_mm` decimal(14,7) not null, `crossfeed_mm` decimal(14,7) default NULL,
  `table_mm_s` decimal(14,7) default NULL, `what` varchar(120) not null default '',
  `amount` decimal(14,7) default NULL, `minutes` decimal(9,3) not null default 0.000,
  primary key (`plan_id`,`number`),
  constraint `fk_plan_step_plan_id` foreign key (`plan_id`) references `plan` (`id`),
  constraint `ck_plan_step_kind` check (`kind` in ('dress','chamfer','place','turn','blocks','touch off','no feed','rough','spark-out','cool','measure','finish')),
  constraint `ck_plan_step_step` check (`step_mm` >= 0 and `depth_mm` >= `step_mm` and `kind` in ('rough','finish') = (`step_mm` > 0))
) engine=InnoDB default charset=utf8mb4 collate=utf8mb4_unicode_ci;
create table if not exists `learned_run` (
  `seq` bigint(20) not null, `machine_id` int not null, `wheel_id` int not null,
  `work` varchar(10) not null default 'magnet', `eta` decimal(6,5) not null, primary key (`seq`),
  key `fk_learned_run_wheel_id` (`wheel_id`), key `ix_learned_run_of` (`machine_id`,`wheel_id`,`seq`),
  constraint `fk_learned_run_machine_id` foreign key (`machine_id`) references `machine` (`id`),
  constraint `fk_learned_run_seq` foreign key (`seq`) references `log_entry` (`seq`),
  constraint `fk_learned_run_wheel_id` foreign key (`wheel_id`) references `wheel` (`id`),
  constraint `ck_learned_run_eta` check (`eta` > 0 and `eta` < 1),
  constraint `ck_learned_run_work` check (`work` in ('magnet','fixture'))
) engine=InnoDB default charset=utf8mb4 collate=utf8mb4_unicode_ci;
create table if not exists `learned_time` (
  `seq` bigint(20) not null, `machine_id` int not null, `act` varchar(10) not null, `minutes` decimal(8,3) not null,
  primary key (`seq`), key `ix_learned_time_of` (`machine_id`,`act`,`seq`),
  constraint `fk_learned_time_machine_id` foreign key (`machine_id`) references `machine` (`id`),
  constraint `fk_learned_time_seq` foreign key (`seq`) references `log_entry` (`seq`),
  constraint `ck_learned_time_act` check (`act` in ('place','flip','fixture','touch_off','dress','measure')),
  constraint `ck_learned_time_minutes` check (`minutes` > 0)
) engine=InnoDB default charset=utf8mb4 collate=utf8mb4_unicode_ci;
create table if not exists `log_reading` (
  `seq` bigint(20) not null, `position` int not null, `place` varchar(80) not null, `value_mm` decimal(14,7) not null,
  primary key (`seq`,`position`), constraint `fk_log_reading_seq` foreign key (`seq`) references `log_entry` (`seq`),
  constraint `ck_log_reading_value` check (`value_mm` >= 0)
) engine=InnoDB default charset=utf8mb4 collate=utf8mb4_unicode_ci;
create table if not exists `size_run` (
  `seq` bigint(20) not null, `machine_id` int not null, `wheel_id` int not null, `work` varchar(10) not null,
  `asked_mm` decimal(14,7) not null, `got_mm` decimal(14,7) not null, `held_back_mm` decimal(14,7) not null,
  `volume_mm3` decimal(16,2) not null, `fresh` tinyint(1) not null, primary key (`seq`),
  key `fk_size_run_wheel_id` (`wheel_id`), key `ix_size_run_of` (`machine_id`,`wheel_id`,`seq`),
  constraint `fk_size_run_machine_id` foreign key (`machine_id`) references `machine` (`id`),
  constraint `fk_size_run_seq` foreign key (`seq`) references `log_entry` (`seq`),
  constraint `fk_size_run_wheel_id` foreign key (`wheel_id`) references `wheel` (`id`),
  constraint `ck_size_run_work` check (`work` in ('magnet','fixture'))
) engine=InnoDB default charset=utf8mb4 collate=utf8mb4_unicode_ci;
create table if not exists `thing_entry` (
  `seq` bigint(20) not null auto_increment, `entry_id` varchar(36) not null, `thing` varchar(10) not null,
  `thing_id` int not null, `kind` varchar(10) not null, `said` text not null, `note` varchar(500) not null,
  `at` datetime(6) not null, `by_id` int not null, `machine_id` int default NULL, `job_seq` bigint(20) default NULL,
  `digest` varchar(32) default NULL, primary key (`seq`),
  unique key `uq_thing_entry_entry_id` (`entry_id`,`thing`), unique key `uq_thing_entry_job_seq` (`job_seq`,`thing`),
  key `fk_thing_entry_by_id` (`by_id`), key `fk_thing_entry_machine_id` (`machine_id`),
  key `ix_thing_entry_thing` (`thing`,`thing_id`,`seq`),
  constraint `fk_thing_entry_by_id` foreign key (`by_id`) references `person` (`id`),
  constraint `fk_thing_entry_job_seq` foreign key (`job_seq`) references `log_entry` (`seq`),
  constraint `fk_thing_entry_machine_id` foreign key (`machine_id`) references `machine` (`id`),
  constraint `ck_thing_entry_thing` check (`thing` in ('wheel','chuck','gauge','machine'))
) engine=InnoDB default charset=utf8mb4 collate=utf8mb4_unicode_ci;

create or replace trigger log_entry_no_delete before delete on log_entry for each row
  signal sqlstate '45000' set message_text = 'the shop log is append-only';
create or replace trigger log_entry_no_update before update on log_entry for each row
  signal sqlstate '45000' set message_text = 'the shop log is append-only';
create or replace trigger log_reading_no_delete before delete on log_reading for each row
  signal sqlstate '45000' set message_text = 'the shop log is append-only';
create or replace trigger log_reading_no_update before update on log_reading for each row
  signal sqlstate '45000' set message_text = 'the shop log is append-only';
create or replace trigger map_reading_no_delete before delete on map_reading for each row
  signal sqlstate '45000' set message_text = 'map_reading is append-only';
create or replace trigger map_reading_no_update before update on map_reading for each row
  signal sqlstate '45000' set message_text = 'map_reading is append-only';
create or replace trigger person_change_no_delete before delete on person_change for each row
  signal sqlstate '45000' set message_text = 'what a lead changed of a person is append-only';
create or replace trigger person_change_no_update before update on person_change for each row
  signal sqlstate '45000' set message_text = 'what a lead changed of a person is append-only';
create or replace trigger thing_entry_no_delete before delete on thing_entry for each row
  signal sqlstate '45000' set message_text = 'the log of a thing is append-only';
create or replace trigger thing_entry_no_update before update on thing_entry for each row
  signal sqlstate '45000' set message_text = 'the log of a thing is append-only';
