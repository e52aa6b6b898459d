from django.db import migrations
from django.db.models.functions import Lower


class Migration(migrations.Migration):
    dependencies = [("yard", "0012_waivers")]

    operations = [migrations.AlterModelOptions(name="prop", options={"ordering": [Lower("name"), "pk"]})]
