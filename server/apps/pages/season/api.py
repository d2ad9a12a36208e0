"""Scouting: what is measured, judged, dug and photographed. Ids are made by the client."""

from typing import Literal
from uuid import UUID

from cultrix_core.crops import crop as profile_of
from cultrix_core.season.canopy import GroundCover, mask_picture
from django.http import FileResponse, HttpRequest, HttpResponse
from django.utils import timezone
from ninja import File, Form, Router, Status
from ninja.files import UploadedFile

from apps.accounts.queries import actor, formatter_for
from apps.field.events import services as event_services
from apps.field.events.schemas import FieldEventIn, FieldEventOut
from apps.field.queries import events_of
from apps.field.season import photos, services
from apps.field.season.schemas import (
    DugPlantIn,
    DugPlantOut,
    PhotoCoverOut,
    PhotoIn,
    PhotoOut,
    PlantMeasureIn,
    PlantMeasureOut,
    RatingIn,
    RatingOut,
    ScoutingOut,
    StandAnalysisOut,
    StandLineIn,
    TapeRunIn,
    TapeRunOut,
    ThresholdOut,
)
from apps.pages.season import decisions, events, output
from apps.pages.season.stand_analysis import analysis_out
from apps.records.models import FieldRecord
from apps.trial_state.view import TrialView, view
from apps.trials.queries import trial_for

router = Router(tags=["scouting"])


def _view(request: HttpRequest, trial_id: UUID) -> TrialView:
    return view(actor(request), trial_for(actor(request), trial_id))


def _status(record: FieldRecord, changed: bool) -> int:
    return 201 if changed and record.version == 1 else 200


@router.get("/trials/{trial_id}/scouting", response=ScoutingOut, operation_id="scouting")
def scouting(request: HttpRequest, trial_id: UUID):
    return output.scouting_out(_view(request, trial_id))


@router.get("/trials/{trial_id}/stand-analysis", response=StandAnalysisOut, operation_id="stand_analysis")
def stand_analysis(request: HttpRequest, trial_id: UUID, short_of_feed: bool = False):
    return analysis_out(_view(request, trial_id), today=timezone.localdate(), short_of_feed=short_of_feed)


@router.put("/trials/{trial_id}/tape-runs/{run_id}", response={200: TapeRunOut, 201: TapeRunOut}, operation_id="put_tape_run")
def put_tape_run(request: HttpRequest, trial_id: UUID, run_id: UUID, body: TapeRunIn):
    run, changed = services.put_tape_run(actor(request), trial_id, run_id, body)
    return Status(_status(run, changed), output.tape_out(_view(request, trial_id), run))


@router.put(
    "/trials/{trial_id}/dug-plants/{plant_id}", response={200: DugPlantOut, 201: DugPlantOut}, operation_id="put_dug_plant"
)
def put_dug_plant(request: HttpRequest, trial_id: UUID, plant_id: UUID, body: DugPlantIn):
    plant, changed = services.put_dug_plant(actor(request), trial_id, plant_id, body)
    return Status(_status(plant, changed), output.dug_out(plant))


@router.put(
    "/trials/{trial_id}/plant-measures/{measure_id}",
    response={200: PlantMeasureOut, 201: PlantMeasureOut},
    operation_id="put_plant_measure",
)
def put_plant_measure(request: HttpRequest, trial_id: UUID, measure_id: UUID, body: PlantMeasureIn):
    measure, changed = services.put_plant_measure(actor(request), trial_id, measure_id, body)
    trial_view = _view(request, trial_id)
    return Status(_status(measure, changed), output.measure_out(trial_view, measure, output.of_strip(trial_view, measure)))


@router.put("/trials/{trial_id}/ratings/{rating_id}", response={200: RatingOut, 201: RatingOut}, operation_id="put_rating")
def put_rating(request: HttpRequest, trial_id: UUID, rating_id: UUID, body: RatingIn):
    rating, changed = services.put_rating(actor(request), trial_id, rating_id, body)
    return Status(_status(rating, changed), output.rating_out(rating))


@router.post("/trials/{trial_id}/photos/{photo_id}", response={200: PhotoOut, 201: PhotoOut}, operation_id="put_photo")
def put_photo(request: HttpRequest, trial_id: UUID, photo_id: UUID, details: Form[PhotoIn], file: File[UploadedFile]):
    photo, changed = photos.put_photo(actor(request), trial_id, photo_id, details, file)
    return Status(_status(photo, changed), output.photo_out(photo))


@router.get("/photos/{photo_id}/cover", response=PhotoCoverOut, operation_id="photo_cover")
def photo_cover(request: HttpRequest, photo_id: UUID, threshold: float | None = None):
    _, cover = photos.cover_of(photos.photo_for(actor(request), photo_id), threshold)
    return PhotoCoverOut(
        cover_pct=round(100 * cover.cover_frac, 1),
        threshold=round(cover.threshold, 3),
        found=cover.found,
        words=_cover_words(cover, moved=threshold is not None),
    )


def _cover_words(cover: GroundCover, *, moved: bool) -> str:
    if moved:
        return "By the threshold set by hand. Weeds are green as well: look at the mask."
    if cover.found:
        return "The threshold between green and soil was found in this picture. Weeds are green as well: look at the mask."
    return "The picture holds crop or soil alone, so the usual threshold was used."


@router.get("/photos/{photo_id}/cover.png", operation_id="photo_mask", response={200: None})
def photo_mask(request: HttpRequest, photo_id: UUID, threshold: float | None = None):
    pixels, cover = photos.cover_of(photos.photo_for(actor(request), photo_id), threshold)
    answer = HttpResponse(mask_picture(pixels, cover), content_type="image/png")
    answer["Cache-Control"] = "private, max-age=600"
    return answer


@router.get("/photos/{photo_id}", operation_id="photo", response={200: None})
def photo(request: HttpRequest, photo_id: UUID, size: Literal["full", "small"] = "full"):
    result = photos.photo_for(actor(request), photo_id)
    answer: HttpResponse | FileResponse
    if size == "small":
        answer = HttpResponse(photos.small(result), content_type="image/jpeg")
    else:
        answer = FileResponse(photos.path_of(result.digest).open("rb"), content_type="image/jpeg")
    return answer


@router.put("/workspaces/{workspace_id}/stand-lines/{crop}/{key}", response=list[ThresholdOut], operation_id="set_stand_line")
def set_stand_line(request: HttpRequest, workspace_id: UUID, crop: str, key: str, body: StandLineIn):
    workspace = services.set_stand_line(actor(request), workspace_id, crop, key, body)
    show = formatter_for(actor(request), workspace, profile_of(crop))
    return [decisions.line_out(line, show) for line in decisions.lines_of(workspace, crop).values()]


@router.get("/trials/{trial_id}/field-events", response=list[FieldEventOut], operation_id="field_events")
def field_events(request: HttpRequest, trial_id: UUID):
    return [events.event_out(event) for event in events_of(trial_for(actor(request), trial_id))]


@router.put(
    "/trials/{trial_id}/field-events/{event_id}",
    response={200: FieldEventOut, 201: FieldEventOut},
    operation_id="put_field_event",
)
def put_field_event(request: HttpRequest, trial_id: UUID, event_id: UUID, body: FieldEventIn):
    event, changed = event_services.put_field_event(actor(request), trial_id, event_id, body)
    return Status(201 if changed and event.version == 1 else 200, events.event_out(event))
