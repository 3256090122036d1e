-- The kind of the gas solve has the name that settings give it.
UPDATE `runs` SET `kind` = 'gas' WHERE `kind` = 'solve';
