import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { type ReactElement, useState } from 'react';
import { isRuddleError } from '#core/errors';
import { parseShotFile } from '#core/shot';
import { ApiError, api, navigate, say, useShots } from '#web/state';
import { Empty, FileDrop, Icon, Loading, Problem, useColours } from '#web/ui';
import { CleanUpButton } from './clean-up-button';
import { NewShotButton } from './new-shot';
import { ShotsTable } from './shots-table';

export function ShotsView(): ReactElement {
  const c = useColours();
  const shots = useShots();
  const [wrong, setWrong] = useState<string | null>(null);

  const importFile = async (file: File): Promise<void> => {
    try {
      const zip = /\.zip$/i.test(file.name);
      const shot = zip ? await api.importBundle(file) : await api.importShot(parseShotFile(await file.text(), file.name));
      setWrong(null);
      say('success', `${shot.fields.name} imported.`);
      navigate({ view: 'bench', shot: shot.slug });
    } catch (error) {
      setWrong(isRuddleError(error) || error instanceof ApiError ? error.message : String(error));
    }
  };

  const importAll = async (files: readonly File[]): Promise<void> => {
    for (const file of files) await importFile(file);
  };

  return (
    <FileDrop
      label="Shot file"
      invitation="Drop a shot file (.json), or a bundle (.zip)"
      onDrop={(files) => void importAll(files)}
      sx={{ height: '100%', display: 'flex', flexDirection: 'column' }}
    >
      {(pick) => (
        <>
          <Box
            component="header"
            sx={{
              height: 52,
              flexShrink: 0,
              px: 2,
              display: 'flex',
              alignItems: 'center',
              gap: 2,
              borderBottom: `1px solid ${c.line}`,
              bgcolor: c.panel,
            }}
          >
            <Box component="h1" sx={{ m: 0, fontSize: 16, fontWeight: 650, flex: 1 }}>
              Shots
            </Box>
            <Button
              variant="outlined"
              color="inherit"
              onClick={pick}
              startIcon={<Icon name="add" size={15} />}
              sx={{ borderColor: c.line }}
            >
              Add a shot file
            </Button>
            <CleanUpButton shots={shots.data ?? []} />
            <NewShotButton shots={shots.data ?? []} />
          </Box>
          {wrong !== null && (
            <Box
              role="alert"
              sx={{
                m: 2,
                mb: 0,
                p: 1.5,
                border: `1px solid ${c.failed}`,
                borderRadius: 1,
                color: c.text,
                position: 'relative',
                maxHeight: 220,
                overflow: 'auto',
              }}
            >
              <Button
                color="inherit"
                size="small"
                onClick={() => setWrong(null)}
                sx={{ position: 'absolute', right: 4, top: 4, minWidth: 0 }}
                aria-label="Close"
              >
                <Icon name="close" size={14} />
              </Button>
              <pre className="mono" style={{ margin: 0, whiteSpace: 'pre-wrap', fontSize: 12 }}>
                {wrong}
              </pre>
            </Box>
          )}
          <Box sx={{ flex: 1, minHeight: 0, overflow: 'auto', p: 2 }}>
            {shots.isPending && <Loading what="Looking for shots" />}
            {shots.isError && <Problem title="The shots cannot be shown" text={shots.error.message} retry={() => void shots.refetch()} />}
            {shots.data?.length === 0 && (
              <Empty title="No shots yet">
                Start one with New shot, or add a shot file: `docs/shot-file.md` explains every field, and `demo/` holds one to begin with.
              </Empty>
            )}
            {shots.data && shots.data.length > 0 && <ShotsTable shots={shots.data} />}
          </Box>
        </>
      )}
    </FileDrop>
  );
}
