-- Tells every process that uses this database which project was saved, deleted, brought back or removed.
CREATE FUNCTION tell_project_change() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  PERFORM pg_notify('project_changes', COALESCE(NEW.id, OLD.id));
  RETURN NULL;
END
$$;
--> statement-breakpoint
CREATE TRIGGER project_change AFTER DELETE OR UPDATE OF revision, deleted_at ON projects
FOR EACH ROW EXECUTE FUNCTION tell_project_change();
