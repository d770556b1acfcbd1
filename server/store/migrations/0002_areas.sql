-- Rooms learn to have an outline and areas; older plans have neither. The history is changed alike, so that undo still meets equals.
UPDATE "sites" SET "plan" = jsonb_set("plan" || jsonb_build_object('areas', coalesce("plan"->'areas', '[]'::jsonb)), '{room,outline}', coalesce("plan"#>'{room,outline}', 'null'::jsonb));
