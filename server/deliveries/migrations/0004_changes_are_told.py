from django.db import migrations

#: Whoever listens is told that a delivery changed: its job's owner and its id. Sessions tell when they end.
TELL = """
CREATE FUNCTION kite_tell_delivery() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    PERFORM pg_notify('kite_delivery', (SELECT owner_id FROM jobs_job WHERE id = NEW.job_id)::text || ' ' || NEW.id::text);
    RETURN NULL;
END $$;
CREATE TRIGGER kite_delivery_changed AFTER INSERT OR UPDATE ON deliveries_delivery
    FOR EACH ROW EXECUTE FUNCTION kite_tell_delivery();
CREATE FUNCTION kite_tell_session() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    PERFORM pg_notify('kite_session', OLD.session_key);
    RETURN NULL;
END $$;
CREATE TRIGGER kite_session_ended AFTER DELETE ON django_session
    FOR EACH ROW EXECUTE FUNCTION kite_tell_session();
"""
SILENCE = """
DROP TRIGGER kite_delivery_changed ON deliveries_delivery;
DROP FUNCTION kite_tell_delivery();
DROP TRIGGER kite_session_ended ON django_session;
DROP FUNCTION kite_tell_session();
"""


class Migration(migrations.Migration):
    dependencies = [
        ("deliveries", "0003_queue_and_saved_outputs"),
        ("jobs", "0001_initial"),
        ("sessions", "0001_initial"),
    ]
    operations = [migrations.RunSQL(TELL, SILENCE)]
