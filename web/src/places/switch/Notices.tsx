import { useWall } from '../../play/useWall';
import type { Wall } from '../../play/wall';
import { DarkButton } from './Foot';

/** What is to be said of play and of the last key: an angle that does not run, pictures that come late, a lighter wall. */
export function Notices({ wall, offered }: { wall: Wall; offered: string | null }) {
  const late = useWall(wall, (state) => state.late);
  const light = useWall(wall, (state) => state.light);
  return (
    <>
      {offered !== null && (
        <p className="pt-1.5 text-[#e0a54a]" role="status" data-testid="asked">
          {offered} does not run here: it would be black. Nothing was recorded. Take it again to have it all
          the same.
        </p>
      )}
      {late > 0.05 && !light && (
        <p className="pt-1.5 text-[12px] text-[#e0a54a]" role="status">
          This machine shows {Math.round((1 - late) * 100)} % of the frames. The cut is recorded exactly all
          the same.
        </p>
      )}
      {light && (
        <p className="flex items-center gap-3 pt-1.5 text-[12px] text-[#e0a54a]" role="status">
          A lighter wall: this machine cannot show all pictures at all frames, so the small ones come{' '}
          {light === 'smaller' ? 'from smaller copies.' : 'now and then.'}
          <DarkButton onClick={() => wall.setLight(false)}>All frames</DarkButton>
        </p>
      )}
    </>
  );
}
