import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { type ReactElement, useLayoutEffect, useRef } from 'react';
import type { ShotDto } from '#protocol';
import { useRoute, useSheet, useShot } from '#web/state';
import { Loading, Problem, useColours } from '#web/ui';
import { Bench } from './bench';
import { BrokenRows } from './runs/broken-rows';

export function BenchView({ slug }: { slug: string }): ReactElement {
  const shot = useShot(slug);
  if (shot.isPending) return <Loading what="Opening the shot" />;
  // A shot that is open stays open when the next answer fails: with its Sketch, and every edit.
  if (!shot.data) {
    return (
      <Problem
        title="This shot cannot be opened"
        text={`${shot.error?.message ?? ''}\nGo to Shots and open another one.`}
        retry={() => void shot.refetch()}
      />
    );
  }
  return (
    <>
      <Opened shot={shot.data} />
      {shot.isError && <Behind why={shot.error.message} retry={() => void shot.refetch()} />}
    </>
  );
}

/** Says that the page may be out of date, and why. */
function Behind({ why, retry }: { why: string; retry: () => void }): ReactElement {
  const c = useColours();
  return (
    <Box
      role="alert"
      sx={{
        position: 'absolute',
        top: 60,
        left: '50%',
        transform: 'translateX(-50%)',
        zIndex: 19,
        display: 'flex',
        alignItems: 'center',
        gap: 1,
        px: 2,
        py: 0.5,
        borderRadius: 1,
        bgcolor: c.raised,
        border: `1px solid ${c.warning}`,
      }}
    >
      <span>The newest state of the shot could not be fetched: {why} This page may be out of date.</span>
      <Button size="small" color="inherit" onClick={retry}>
        Try again
      </Button>
    </Box>
  );
}

/** Puts the variant on the sheet before anything is drawn from it. What is drawn stays while another one comes onto the sheet. */
function Opened({ shot }: { shot: ShotDto }): ReactElement {
  const route = useRoute();
  const variant = shot.variants.find((v) => v.id === route.variant) ?? shot.variants[0];
  const open = useSheet((s) => s.open);
  const onSheet = useSheet((s) => s.variantId);
  const last = useRef<string | null>(null);
  useLayoutEffect(() => {
    if (variant) open(shot, variant);
  }, [shot, variant, open]);
  if (!variant) return <Problem title="This shot has no variant" text="Its file must have been changed by hand." />;
  const drawn = shot.variants.find((v) => v.id === (onSheet ?? last.current));
  last.current = drawn?.id ?? null;
  if (!drawn) return <Loading what="Opening the variant" />;
  return (
    <>
      <Bench shot={shot} variant={drawn} />
      {shot.broken.length > 0 && <BrokenRows shot={shot} />}
    </>
  );
}
