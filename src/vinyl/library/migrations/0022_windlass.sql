-- A stand-in player has another name now.
UPDATE stick SET profile = 'Windlass' WHERE profile = 'Capstan';
UPDATE stick_player SET profile = 'Windlass' WHERE profile = 'Capstan';
UPDATE stick_packed SET profile = 'Windlass' WHERE profile = 'Capstan';
