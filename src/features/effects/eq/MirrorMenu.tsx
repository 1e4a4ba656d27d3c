'use client';

import Dropdown from 'react-bootstrap/Dropdown';
import { allStrips, stripOfInsert } from '@/core/session/records/queries';
import type { Insert } from '@/core/session/records/inserts';
import { mirrorCommand } from '../../session/mirroring';
import { newId } from '../../session/newId';
import { useStudio, useStudioState } from '../../session/StudioContext';

/** Puts the opposite of an equalizer onto another track, so that two sounds keep out of each other's way. */
export function MirrorMenu({ insert }: { insert: Insert }) {
  const studio = useStudio();
  const document = useStudioState(({ document }) => document);
  const own = stripOfInsert(document, insert.id)!;
  return (
    <Dropdown align="end">
      <Dropdown.Toggle variant="line" bsPrefix="preset-toggle">
        Mirror
      </Dropdown.Toggle>
      <Dropdown.Menu>
        <Dropdown.Header>What is lifted here is lowered on</Dropdown.Header>
        {allStrips(document)
          .filter((strip) => strip.id !== own.id)
          .map((strip) => (
            <Dropdown.Item
              key={strip.id}
              as="button"
              type="button"
              onClick={() =>
                studio.editor.perform(
                  mirrorCommand(studio.state.document, insert, strip.id, newId()),
                  `Mirror onto ${strip.name}`,
                )
              }
            >
              {strip.name}
            </Dropdown.Item>
          ))}
      </Dropdown.Menu>
    </Dropdown>
  );
}
