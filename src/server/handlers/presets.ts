import * as yup from 'yup';
import { MAXIMUM_PRESET_BYTES, readPreset } from '@/core/formats/preset';
import { favouriteRequest } from '@/core/protocol/http';
import { database } from '../db/client';
import { answer, answerAbout, readJson } from '../http';
import * as presets from '../repositories/presets';

export function listPresets(request: Request): Promise<Response> {
  return answer(request, async () => Response.json(await presets.listPresets(await database())));
}

export function createPreset(request: Request): Promise<Response> {
  return answer(request, async () => {
    const preset = readPreset(await readJson(request, yup.object().required(), MAXIMUM_PRESET_BYTES));
    return Response.json(await presets.createPreset(await database(), preset), { status: 201 });
  });
}

export function removePreset(request: Request, id: string): Promise<Response> {
  return answerAbout(request, id, async () => {
    await presets.removePreset(await database(), id);
    return new Response(null, { status: 204 });
  });
}

export function setFavourite(request: Request): Promise<Response> {
  return answer(request, async () => {
    const { id, on } = await readJson(request, favouriteRequest, 1024);
    await presets.setFavourite(await database(), id, on);
    return new Response(null, { status: 204 });
  });
}
