-- Which rules files are in use.
CREATE TABLE `rules_switches` (`name` text,`on` numeric,PRIMARY KEY (`name`));
